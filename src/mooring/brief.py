"""How things show themselves where a line must do: in a terminal, a debugger, a list."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable, Mapping, Sequence, Set
from pathlib import Path

import numpy as np

from mooring.errors import told
from mooring.outlet import Shown

_LONGEST = 160
_FEW = 4


class Brief(Shown):
    """What shows the kind of thing it is, its name, and its fields, each in a word or two."""

    def __repr__(self) -> str:
        fields = [f.name for f in dataclasses.fields(self)]  # type: ignore[arg-type]
        return brief(self, fields)


def brief(of: object, fields: Iterable[str]) -> str:
    """A line for something with fields, of which those that say nothing are left out.

    Example:
        >>> from mooring.model import Robot
        >>> robot = Robot("davit")
        >>> robot.add_link("post", mass=3)
        >>> robot.links["post"]
        <Link 'post': mass 3>
    """
    name = getattr(of, "name", None)
    head = type(of).__name__ + (f" {name!r}" if isinstance(name, str) and name else "")
    words: list[str] = []
    for field in fields:
        said = "" if field == "name" else _word(field, getattr(of, field, None))
        if said and sum(map(len, words)) + len(said) < _LONGEST:
            words.append(said)
    return f"<{head}: {', '.join(words)}>" if words else f"<{head}>"


def _word(field: str, value: object) -> str:
    label = field.replace("_", " ")
    if value is None or value is False or (isinstance(value, str) and not value):
        return ""
    if value is True:
        return label
    if isinstance(value, float | int | np.number):
        return f"{label} {value:.6g}"
    if isinstance(value, str | Path):
        return f"{label} {told(value.name if isinstance(value, Path) else value)}"
    if isinstance(value, np.ndarray):
        numbers = value.ravel()
        if value.ndim == 1 and 0 < len(numbers) <= _FEW and value.dtype.kind in "fiu":
            return f"{label} ({', '.join(f'{number:.4g}' for number in numbers)})"
        return f"{label} {'x'.join(map(str, value.shape))}"
    if isinstance(value, Mapping | Sequence | Set):
        if 0 < len(value) <= _FEW and all(isinstance(one, str | float | int) for one in value):
            inner = ", ".join(str(one) if isinstance(one, str) else f"{one:.4g}" for one in value)
            return f"{label} ({inner})"
        return f"{len(value)} {label}" if value else ""
    name = getattr(value, "name", None)
    return f"{label} {name}" if isinstance(name, str) and name else ""
