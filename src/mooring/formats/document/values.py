"""Values with names, and the expressions that use them."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from mooring.errors import UnitError, did_you_mean, told
from mooring.formats.document.source import KeyPath
from mooring.units import RESERVED, Amount, evaluate
from mooring.units.amount import amount_of

_NAME = re.compile(r"[A-Za-z_]\w*")

_SHORT = 3
"""Units with longer names, such as turn, give way to a value of that name."""

Refuse = Callable[[KeyPath, str], None]


class _FollowsError(UnitError):
    """What is wrong follows from another mistake, which is told already."""

    def __init__(self) -> None:
        super().__init__("a value it uses is wrong")


class Values:
    """The named values of a document.

    Args:
        written: the document's `values:` section.
        given: values that whoever includes the document gives instead.
        refuse: told what is wrong, with the path of keys where it was written.
    """

    def __init__(
        self, written: Mapping[str, Any], given: Mapping[str, Any], refuse: Refuse
    ) -> None:
        self._written = {**written, **given}
        self._refuse = refuse
        self._known: dict[str, Amount] = {}
        self._broken: set[str] = set()
        self._open: list[str] = []
        for name in written:
            self._check_name(name)
        self._names = self._written.keys() - self._broken
        for name in given:
            if name not in written:
                hint = did_you_mean(name, list(written))
                refuse((), f"the document has no value {name!r} that could be given{hint}")
        for name in self._written:
            if name not in self._broken:
                self._resolve(name)

    def applied(self, value: Any, path: KeyPath = ()) -> Any:
        """A part of the document with its expressions evaluated."""
        if isinstance(value, dict):
            return {key: self.applied(inner, (*path, key)) for key, inner in value.items()}
        if isinstance(value, list):
            return [self.applied(inner, (*path, k)) for k, inner in enumerate(value)]
        if isinstance(value, str) and value.startswith("="):
            try:
                return evaluate(value[1:], self._lookup, self._names).written
            except _FollowsError:
                return None
            except UnitError as error:
                self._refuse(path, str(error))
                return None
        return value

    def _check_name(self, name: str) -> None:
        if not _NAME.fullmatch(name):
            why = "is no name; letters, digits and _ can be used"
        elif name in RESERVED:
            why = "is the name of a function"
        elif len(name) <= _SHORT and amount_of(1.0, name) is not None:
            why = "is the sign of a unit"
        else:
            return
        self._broken.add(name)
        self._refuse(("values", name), f"{name!r} {why}")

    def _lookup(self, name: str) -> Amount:
        if name not in self._written:
            raise UnitError(f"no value is called {name!r}{did_you_mean(name, list(self._written))}")
        if name in self._broken:
            raise _FollowsError
        if name in self._open:
            ring = [*self._open[self._open.index(name) :], name]
            raise UnitError(f"the values depend on each other in a ring: {' -> '.join(ring)}")
        self._resolve(name)
        if name in self._broken:
            raise _FollowsError
        return self._known[name]

    def _resolve(self, name: str) -> None:
        if name in self._known or name in self._broken:
            return
        value = self._written[name]
        self._open.append(name)
        try:
            if isinstance(value, bool) or not isinstance(value, (int, float, str)):
                raise UnitError(
                    f"expected a number, a quantity or an expression, got {told(value)}"
                )
            if isinstance(value, str):
                # A quantity such as 820 mm is an expression too.
                self._known[name] = evaluate(value.removeprefix("="), self._lookup, self._names)
            else:
                self._known[name] = Amount(float(value))
        except _FollowsError:
            self._broken.add(name)
        except UnitError as error:
            self._broken.add(name)
            self._refuse(("values", name), str(error))
        finally:
            self._open.pop()
