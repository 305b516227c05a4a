"""How rules are made: a function that yields what it finds, registered under its code."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import NamedTuple

from mooring.checks.finding import Severity
from mooring.model import Robot


class Found(NamedTuple):
    """What a rule yields: what it is about, what is wrong, what to do."""

    item: tuple[str, ...]
    message: str
    remedy: str


RuleFunction = Callable[[Robot], Iterator[Found]]


@dataclass(frozen=True)
class Rule:
    """A registered rule.

    Attributes:
        code: its short name.
        severity: of what it finds.
        look: the function.
        needs_tree: whether it can only look at a sound tree.
    """

    code: str
    severity: Severity
    look: RuleFunction
    needs_tree: bool


RULES: dict[str, Rule] = {}


def rule(
    code: str, severity: Severity, *, needs_tree: bool = False
) -> Callable[[RuleFunction], RuleFunction]:
    """Register a function as a rule."""

    def register(look: RuleFunction) -> RuleFunction:
        if code in RULES:
            raise ValueError(f"two rules are called {code!r}")
        RULES[code] = Rule(code, severity, look, needs_tree)
        return look

    return register
