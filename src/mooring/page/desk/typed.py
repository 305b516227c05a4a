"""What one types into a field, as what a document holds."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from typing import Any

from mooring.errors import InputError
from mooring.formats.document.values import Values
from mooring.units import to_si

_NUMBER = re.compile(r"[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?")
_THOUSANDS = re.compile(r"[-+]?\d{1,3}(,\d{3})+(\.\d+)?")


def read_typed(said: str, unit: str, several: bool = False) -> Any:
    """A number, a text with its unit, an expression, or a list of these.

    A bare number is in the unit that is shown, and written with it; nothing is evaluated.

    Args:
        said: what was typed; nothing takes the value away.
        unit: of what is shown; empty where it has none.
        several: whether a list is wanted.

    Raises:
        InputError: it could mean two things.

    Example:
        >>> read_typed("45", "deg"), read_typed("0.3 m", "mm"), read_typed("=stroke / 2", "mm")
        ('45 deg', '0.3 m', '=stroke / 2')
        >>> read_typed("=atan2(1, 2), 0, 90", "deg", several=True)
        ['=atan2(1, 2)', '0 deg', '90 deg']
    """
    said = said.strip().replace("\u2212", "-")
    if not said:
        return None
    if several:
        inner = said[1:-1] if said[0] == "[" and said[-1] == "]" else said
        return [read_typed(part, unit) for part in _parts(inner)]
    if said.startswith("=") or not any(letter.isdigit() for letter in said):
        return said
    if _THOUSANDS.fullmatch(said):
        plain, point = said.replace(",", ""), said.replace(",", ".", 1)
        other = f" or {point}" if said.count(",") == 1 and "." not in said else ""
        raise InputError(f"{said} could be {plain}{other}; write it without the comma")
    if re.fullmatch(r"[-+]?\d+,\d+", said):
        raise InputError(f"write {said.replace(',', '.')}: a comma stands between values")
    if not _NUMBER.fullmatch(said):
        return said
    if unit:
        return f"{said} {unit}"
    return float(said) if re.search(r"[.eE]", said) else int(said)


def typed_quantity(said: str, unit: str, dimension: str, values: Mapping[str, Any]) -> float:
    """What is typed to be done at once, and not to be written [SI].

    Args:
        said, unit: as in `read_typed`.
        dimension: one of `mooring.units.DIMENSIONS`.
        values: the named values that an expression may use, as a document holds them.

    Raises:
        InputError: it says nothing, or could mean two things.
        UnitError: it is no quantity of the dimension, or uses no named value.

    Example:
        >>> typed_quantity("=reach / 2", "mm", "length", {"reach": "3 m"})
        1.5
    """
    value = read_typed(said, unit)
    if value is None:
        raise InputError(f"nothing is no number of {unit}")
    return to_si(evaluated(value, unit, values), dimension)


def evaluated(value: Any, unit: str, values: Mapping[str, Any]) -> Any:
    """What was read, without expressions: for what cannot hold any.

    Args:
        value: of `read_typed`.
        unit: of what an expression leaves bare.
        values: as in `typed_quantity`.

    Raises:
        InputError: an expression cannot be evaluated.

    Example:
        >>> evaluated(["=stroke / 2", "=3 * 4", "5 mm"], "mm", {"stroke": "2 m"})
        ['1.0 m', '12.0 mm', '5 mm']
    """
    if isinstance(value, list):
        return [evaluated(item, unit, values) for item in value]
    if not isinstance(value, str) or not value.startswith("="):
        return value
    wrong: list[str] = []
    found = Values(values, {}, lambda _, text: wrong.append(text)).applied(value)
    if found is None:
        # What the expression has told of itself comes last, after that of values that it may use.
        raise InputError(wrong[-1])
    return f"{found} {unit}".strip() if isinstance(found, int | float) else found


def _parts(said: str) -> Iterator[str]:
    """What stands between commas that are in no brackets."""
    depth, begin = 0, 0
    for at, letter in enumerate(said):
        depth += (letter in "([") - (letter in ")]")
        if letter == "," and depth == 0:
            yield said[begin:at]
            begin = at + 1
    yield said[begin:]


def as_typed(value: Any) -> str:
    """What a document holds, as one types it."""
    if value is None:
        return ""
    if isinstance(value, list):
        return ", ".join(str(item) for item in value)
    return str(value)


def unit_in(shown: str) -> str:
    """The unit of a quantity, or of the first of several, as they are shown."""
    found = re.match(r"[-+.\deE]+\s+([^\d\s,][^,]*)", shown)
    return found[1].strip() if found else ""
