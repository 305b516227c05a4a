"""A number with its dimension, to calculate with."""

from __future__ import annotations

import math
from dataclasses import dataclass

from mooring.errors import UnitError
from mooring.units.parse import describe_powers, registry

Powers = tuple[tuple[str, float], ...]
"""Base dimensions with their powers, sorted, none zero; `()` for a plain number."""


@dataclass(frozen=True)
class Amount:
    """A quantity in SI.

    Attributes:
        value: in SI.
        powers: of the base dimensions.
    """

    value: float
    powers: Powers = ()

    def __add__(self, other: Amount) -> Amount:
        return Amount(self.value + other.value, self._same(other, "a sum"))

    def __sub__(self, other: Amount) -> Amount:
        return Amount(self.value - other.value, self._same(other, "a difference"))

    def __mul__(self, other: Amount) -> Amount:
        return Amount(self.value * other.value, _sum(self.powers, other.powers, 1))

    def __truediv__(self, other: Amount) -> Amount:
        if other.value == 0:
            raise UnitError("a division by zero")
        return Amount(self.value / other.value, _sum(self.powers, other.powers, -1))

    def __neg__(self) -> Amount:
        return Amount(-self.value, self.powers)

    def __pow__(self, other: Amount) -> Amount:
        power = other.plain("a power")
        if self.value < 0 and not power.is_integer():
            raise UnitError(f"a negative number has no power {power:g}")
        if self.value == 0 and power < 0:
            raise UnitError("a division by zero")
        powers = tuple((name, p * power) for name, p in self.powers if p * power)
        try:
            return Amount(self.value**power, powers)
        except OverflowError:
            raise UnitError("the result is too large") from None

    def plain(self, what: str) -> float:
        """The value of a plain number.

        Raises:
            UnitError: it has a dimension.
        """
        if self.powers:
            raise UnitError(f"{what} must be a plain number, not {describe_powers(self.powers)}")
        return self.value

    def _same(self, other: Amount, words: str) -> Powers:
        if self.powers != other.powers:
            raise UnitError(
                f"{words} of different things: {describe_powers(self.powers)} and "
                f"{describe_powers(other.powers)}"
            )
        return self.powers

    @property
    def written(self) -> str | float:
        """As `to_si` reads it back exactly: a number, or a string with its unit in SI."""
        if not math.isfinite(self.value):
            raise UnitError("the result is not finite")
        if not self.powers:
            return self.value
        above = [_unit(name, power) for name, power in self.powers if power > 0]
        below = [_unit(name, -power) for name, power in self.powers if power < 0]
        # Pint reads no unit that begins with a division.
        text = "*".join(above) or "rad/rad"
        return f"{self.value!r} {'/'.join([text, *below])}"


_SI = {"[length]": "m", "[mass]": "kg", "[time]": "s", "[angle]": "rad", "[temperature]": "K"}


def amount_of(value: float, unit: str) -> Amount | None:
    """A number and a unit as an amount; None where the unit is not known."""
    units = registry()
    try:
        parsed = units.parse_units(unit)
        root = (1.0 * parsed).to_root_units()
    except Exception:  # Pint's parser raises many kinds for malformed text
        return None
    powers = tuple(sorted((str(k), float(str(v))) for k, v in parsed.dimensionality.items() if v))
    # Pint's root unit of mass is the gram.
    grams = dict(powers).get("[mass]", 0.0)
    try:
        return Amount(value * float(root.magnitude) * 1e-3**grams, powers)
    except OverflowError:
        raise UnitError(f"{value:g} {unit} is beyond all numbers") from None


def _unit(name: str, power: float) -> str:
    return _SI[name] if power == 1 else f"{_SI[name]}^{power:g}"


def _sum(one: Powers, other: Powers, sign: int) -> Powers:
    total = dict(one)
    for name, power in other:
        total[name] = total.get(name, 0.0) + sign * power
    return tuple(sorted((name, power) for name, power in total.items() if power))
