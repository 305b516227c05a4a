"""How rules are made: a function that yields what it finds, registered under its code."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import NamedTuple

from mooring.checks.finding import Severity
from mooring.checks.fix import Edit
from mooring.checks.subject import Subject
from mooring.errors import Place


class Found(NamedTuple):
    """What a rule yields.

    Attributes:
        item: what it is about.
        message: what is wrong.
        remedy: what to do.
        fix: changes of the document that are safe to make, if there are any.
        place: where it was written, if that is not where the item was.
        in_urdf: what to do where it was written in a URDF file, if that is something else.
        like: what findings have in common that are told as one; by itself where it is empty.
        called: what it is called where it is told with others; the item's name if empty.
    """

    item: tuple[str, ...]
    message: str
    remedy: str
    fix: tuple[Edit, ...] = ()
    place: Place | None = None
    in_urdf: str = ""
    like: str = ""
    called: str = ""


RuleFunction = Callable[[Subject], Iterator[Found]]


@dataclass(frozen=True)
class Rule:
    """A registered rule.

    Attributes:
        code: its short name.
        severity: of what it finds, where the document does not say otherwise.
        look: the function.
        needs_tree: whether it can only look at a sound tree.
        explains: rules whose findings may follow from this one's, and come after it.
    """

    code: str
    severity: Severity
    look: RuleFunction
    needs_tree: bool
    explains: tuple[str, ...] = ()

    @property
    def summary(self) -> str:
        """What it wants, in a line."""
        return (self.look.__doc__ or "").strip().splitlines()[0]


RULES: dict[str, Rule] = {}


def rule(
    code: str, severity: Severity, *, needs_tree: bool = False, explains: tuple[str, ...] = ()
) -> Callable[[RuleFunction], RuleFunction]:
    """Register a function as a rule."""

    def register(look: RuleFunction) -> RuleFunction:
        if code in RULES:
            raise ValueError(f"two rules are called {code!r}")
        RULES[code] = Rule(code, severity, look, needs_tree, explains)
        return look

    return register
