"""From what a user wrote to a float in SI."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable
from functools import cache, lru_cache
from importlib import resources
from typing import TYPE_CHECKING, Any, SupportsFloat

from mooring.errors import UnitError, told
from mooring.units import memory
from mooring.units.dimensions import DIMENSIONS

if TYPE_CHECKING:
    from pint import UnitRegistry

_NUMBER = re.compile(r"\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)\s*(.*?)\s*", re.DOTALL)
# What a unit may be made of. Nothing else reaches Pint's expression parser.
_UNIT = re.compile(r"[A-Za-zµ°_]*(?:\s*(?:\*\*|\^|\*|/)\s*-?[A-Za-z0-9µ°_]+)*")
_LONGEST = 60


def to_si(value: object, dimension: str) -> float:
    """A quantity as a float in SI.

    A number is taken to be SI already; a string must carry a unit of the right dimension.

    Args:
        value: for example `0.025` or `"25 mm"`.
        dimension: one of `DIMENSIONS`, for example `"length"`.

    Raises:
        UnitError: the value is no finite number, has no unit, an unknown unit, or one of
            another dimension.

    >>> to_si("25 mm", "length")
    0.025
    >>> to_si(0.025, "length")
    0.025
    """
    if type(value) is float:
        number = value
    elif isinstance(value, str):
        number = _parse(value, dimension)
    elif isinstance(value, bool) or not isinstance(value, SupportsFloat):
        raise UnitError(f"expected {_wanted(dimension)}, got {told(value)}")
    else:
        try:
            number = float(value)
        except (TypeError, ValueError, OverflowError) as error:
            raise UnitError(f"expected {_wanted(dimension)}, got {told(value)}: {error}") from None
    if not math.isfinite(number):
        raise UnitError(f"expected {_wanted(dimension)}, got {told(value)}, which is not finite")
    return number


@lru_cache(maxsize=10_000)
def _parse(text: str, dimension: str) -> float:
    match = _NUMBER.fullmatch(text) if len(text) <= _LONGEST else None
    if match is None:
        raise UnitError(f"expected {_wanted(dimension)}, got {told(text[:_LONGEST])}")
    number, unit = float(match[1]), match[2].replace("·", "*").replace("²", "^2").replace("³", "^3")
    if not unit:
        if dimension == "number":
            return number
        si = DIMENSIONS[dimension].si
        raise UnitError(
            f"{text!r} has no unit; write '{match[1]} {si}', or the plain number {match[1]}"
            f" if it is in {si}"
        )
    if not _UNIT.fullmatch(unit):
        raise UnitError(f"cannot read the unit {unit!r} in {text!r}; expected {_wanted(dimension)}")
    factor = memory.recall(unit, dimension)
    if factor is None:
        factor = _factor(unit, text, dimension)
        memory.remember(unit, dimension, factor)
    return number * factor


def _factor(unit: str, text: str, dimension: str) -> float:
    import pint

    units = registry()
    try:
        given = units.parse_units(unit)
    except pint.UndefinedUnitError:
        raise UnitError(
            f"unknown unit {unit!r} in {text!r}; expected {_wanted(dimension)}"
        ) from None
    except Exception:  # Pint's parser raises many kinds for malformed text
        raise UnitError(
            f"cannot read the unit {unit!r} in {text!r}; expected {_wanted(dimension)}"
        ) from None
    wanted = units.parse_units(DIMENSIONS[dimension].si)
    if given.dimensionality != wanted.dimensionality:
        raise UnitError(f"{text!r} is {_describe(given, units)}; expected {_wanted(dimension)}")
    return float(units.convert(1.0, given, wanted))


def _describe(given: Any, units: UnitRegistry[Any]) -> str:
    """The name of the dimension the user wrote by mistake."""
    for dimension in DIMENSIONS.values():
        if units.parse_units(dimension.si).dimensionality == given.dimensionality:
            return _with_article(dimension.name)
    return f"of dimension {given.dimensionality}"


def describe_powers(powers: Iterable[tuple[str, float]]) -> str:
    """The name of a dimension given as powers of the base dimensions, with its article."""
    units = registry()
    wanted = dict(powers)
    for dimension in DIMENSIONS.values():
        known = units.parse_units(dimension.si).dimensionality
        if {str(name): float(str(power)) for name, power in known.items()} == wanted:
            return _with_article(dimension.name)
    return "a quantity of dimension " + "*".join(f"{name}^{power:g}" for name, power in powers)


def _wanted(dimension: str) -> str:
    return f"{_with_article(dimension)} such as '{DIMENSIONS[dimension].example}'"


def _with_article(name: str) -> str:
    return f"an {name}" if name[0] in "aeiou" else f"a {name}"


@cache
def registry() -> UnitRegistry[Any]:
    """Mooring's own unit registry, in which the angle is a dimension."""
    import pint

    with resources.as_file(resources.files("mooring.units") / "definitions.txt") as definitions:
        units: UnitRegistry[Any] = pint.UnitRegistry(str(definitions))
    return units
