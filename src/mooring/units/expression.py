"""Expressions with units, such as `stroke / 2 + 5 mm`.

A small language of its own: numbers with units, names, + - * / ^, brackets, and a few functions.
Nothing else can be said in it, so nothing else can happen.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Container

from mooring.errors import UnitError
from mooring.units.amount import Amount, amount_of

_TOKEN = re.compile(
    r"\s*(?:(?P<number>(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)|(?P<name>[A-Za-z_µ°][\w°]*)"
    r"|(?P<sign>\*\*|[-+*/^(),]))"
)
# What follows a number, without a space in it, may be a unit such as kN*m/rad or mm^2.
_UNIT = re.compile(r"\s?([A-Za-zµ°][\w°]*(?:(?:\*|/|\^|\*\*)-?[A-Za-z0-9µ°][\w°]*)*)")
_WORDS = re.compile(r"[A-Za-z_µ°][\w°]*")
_LONGEST = 400
_DEEPEST = 40

Lookup = Callable[[str], Amount]


def evaluate(text: str, lookup: Lookup, names: Container[str] = ()) -> Amount:
    """The value of an expression.

    Args:
        text: without the leading `=`.
        lookup: gives the amount that a name stands for, or raises `UnitError`.
        names: that stand for amounts even where a unit of that name could stand.

    Raises:
        UnitError: the expression cannot be read, adds what cannot be added, divides by zero, or
            uses a name that is not known.

    >>> evaluate("2 * (30 mm + 0.02 m)", lambda name: Amount(0.0)).written
    '0.1 m'
    """
    if len(text) > _LONGEST:
        raise UnitError(f"an expression longer than {_LONGEST} characters")
    try:
        return _Parser(text, lookup, names).whole()
    except OverflowError:
        raise UnitError(f"the value of {text!r} is beyond all numbers") from None


class _Parser:
    """Recursive descent; one method a level of binding."""

    def __init__(self, text: str, lookup: Lookup, names: Container[str]) -> None:
        self.text = text
        self.lookup = lookup
        self.names = names
        self.at = 0
        self.depth = 0

    def whole(self) -> Amount:
        value = self._sum()
        if self.text[self.at :].strip():
            raise UnitError(f"cannot read {self.text[self.at :].strip()!r} in {self.text!r}")
        return value

    def _peek(self) -> tuple[str, str]:
        match = _TOKEN.match(self.text, self.at)
        if match is None:
            return "", ""
        return str(match.lastgroup), match[match.lastgroup or 0]

    def _take(self) -> None:
        match = _TOKEN.match(self.text, self.at)
        assert match is not None
        self.at = match.end()

    def _sum(self) -> Amount:
        self.depth += 1
        if self.depth > _DEEPEST:
            raise UnitError(f"more than {_DEEPEST} brackets inside each other")
        value = self._product()
        while self._peek()[1] in ("+", "-"):
            sign = self._peek()[1]
            self._take()
            other = self._product()
            value = value + other if sign == "+" else value - other
        self.depth -= 1
        return value

    def _product(self) -> Amount:
        value = self._signed()
        while self._peek()[1] in ("*", "/"):
            sign = self._peek()[1]
            self._take()
            other = self._signed()
            value = value * other if sign == "*" else value / other
        return value

    def _signed(self) -> Amount:
        sign = self._peek()[1]
        if sign in ("+", "-"):
            self._take()
            value = self._signed()
            return -value if sign == "-" else value
        return self._power()

    def _power(self) -> Amount:
        base = self._atom()
        if self._peek()[1] in ("^", "**"):
            self._take()
            return base ** self._signed()
        return base

    def _atom(self) -> Amount:
        kind, word = self._peek()
        if kind == "number":
            self._take()
            return self._unit(float(word))
        if kind == "name":
            self._take()
            if word in _FUNCTIONS and self._peek()[1] == "(":
                return self._call(word)
            return _CONSTANTS[word] if word in _CONSTANTS else self.lookup(word)
        if word == "(":
            self._take()
            value = self._sum()
            self._expect(")")
            return value
        rest = self.text[self.at :].strip()
        found = f"found {rest!r}" if rest else "it ends"
        raise UnitError(f"a number, a name or a bracket is missing in {self.text!r}: {found}")

    def _call(self, name: str) -> Amount:
        count, function = _FUNCTIONS[name]
        self._expect("(")
        arguments = [self._sum()]
        while self._peek()[1] == ",":
            self._take()
            arguments.append(self._sum())
        self._expect(")")
        if len(arguments) < abs(count) or (count > 0 and len(arguments) > count):
            least = "at least " if count < 0 else ""
            raise UnitError(f"{name} takes {least}{abs(count)} values, got {len(arguments)}")
        try:
            return function(*arguments)
        except ValueError as error:
            raise UnitError(f"{name}: {error}") from None

    def _expect(self, sign: str) -> None:
        if self._peek()[1] != sign:
            raise UnitError(f"{sign!r} is missing in {self.text!r}")
        self._take()

    def _unit(self, number: float) -> Amount:
        """A number with the longest unit that stands behind it."""
        match = _UNIT.match(self.text, self.at)
        if match is None:
            return Amount(number)
        unit = match[1]
        while unit:
            named = any(word in self.names for word in _WORDS.findall(unit))
            amount = None if named else amount_of(number, unit)
            if amount is not None:
                self.at = match.start(1) + len(unit)
                return amount
            # 5 mm*stroke: what is behind the last sign is no unit.
            unit = re.sub(r"(?:^|\*\*|[*/^])-?[\w°µ]+$", "", unit)
        raise UnitError(f"unknown unit {match[1]!r} in {self.text!r}")


def _trigonometric(function: Callable[[float], float]) -> Callable[[Amount], Amount]:
    def call(angle: Amount) -> Amount:
        if angle.powers not in ((("[angle]", 1.0),), ()):
            raise UnitError("expected an angle")
        return Amount(function(angle.value))

    return call


def _inverse(function: Callable[[float], float]) -> Callable[[Amount], Amount]:
    def call(number: Amount) -> Amount:
        return Amount(function(number.plain("its value")), (("[angle]", 1.0),))

    return call


def _arc_tangent(y: Amount, x: Amount) -> Amount:
    _ = y + x  # refuses different dimensions
    return Amount(math.atan2(y.value, x.value), (("[angle]", 1.0),))


def _chosen(choose: Callable[..., float]) -> Callable[..., Amount]:
    def call(*amounts: Amount) -> Amount:
        total = amounts[0]
        for amount in amounts[1:]:
            total = total + amount  # refuses different dimensions
        return Amount(choose(amount.value for amount in amounts), amounts[0].powers)

    return call


_CONSTANTS = {"pi": Amount(math.pi)}
# How many values each takes; negative: at least so many.
_FUNCTIONS: dict[str, tuple[int, Callable[..., Amount]]] = {
    "sqrt": (1, lambda value: value ** Amount(0.5)),
    "abs": (1, lambda value: Amount(abs(value.value), value.powers)),
    "min": (-1, _chosen(min)),
    "max": (-1, _chosen(max)),
    "sin": (1, _trigonometric(math.sin)),
    "cos": (1, _trigonometric(math.cos)),
    "tan": (1, _trigonometric(math.tan)),
    "asin": (1, _inverse(math.asin)),
    "acos": (1, _inverse(math.acos)),
    "atan": (1, _inverse(math.atan)),
    "atan2": (2, _arc_tangent),
}
RESERVED = frozenset({*_CONSTANTS, *_FUNCTIONS})
"""Names that no value may have."""
