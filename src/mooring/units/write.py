"""From SI to what people write: short, with a unit, and the same number when it is read again."""

from __future__ import annotations

import math

from mooring.units.dimensions import DIMENSIONS

_UNITS: dict[str, tuple[tuple[str, float], ...]] = {
    "length": (("mm", 1e-3), ("m", 1.0)),
    "angle": (("deg", math.pi / 180), ("rad", 1.0)),
    "mass": (("kg", 1.0), ("g", 1e-3)),
    "velocity": (("m/s", 1.0), ("mm/s", 1e-3)),
    "angular velocity": (("deg/s", math.pi / 180), ("rad/s", 1.0)),
    "acceleration": (("m/s^2", 1.0),),
    "angular acceleration": (("rad/s^2", 1.0), ("deg/s^2", math.pi / 180)),
    "force": (("N", 1.0), ("kN", 1e3)),
    "torque": (("N*m", 1.0), ("kN*m", 1e3)),
    "linear stiffness": (("N/m", 1.0), ("kN/m", 1e3)),
    "angular stiffness": (("N*m/rad", 1.0), ("kN*m/rad", 1e3)),
    "time": (("s", 1.0), ("ms", 1e-3)),
}
"""Units by dimension, the one that is preferred first, with the SI value of one."""
_SAME = 1e-12
_DIGITS = 15


def written(value: float, dimension: str) -> str | float:
    """A quantity as a document has it.

    >>> written(0.65, "length"), written(-1.5707963267948966, "angle"), written(1.6, "angle")
    ('650 mm', '-90 deg', '1.6 rad')
    >>> written(0.0, "mass")
    0
    """
    if value == 0:
        return 0
    units = _UNITS.get(dimension, ((DIMENSIONS[dimension].si, 1.0),))
    texts = [(_shortest(value, size), unit) for unit, size in units if math.isfinite(value / size)]
    # The first of the shortest.
    text, unit = min(texts, key=lambda one: len(one[0]))
    return f"{text} {unit}" if unit else float(text)


def _shortest(value: float, size: float) -> str:
    """The fewest digits that read back as the number."""
    for digits in range(1, _DIGITS + 1):
        text = f"{value / size:.{digits}g}"
        if abs(float(text) * size - value) <= _SAME * abs(value):
            break
    else:
        text = repr(value / size)
    if "e" in text and 1e-4 <= abs(value / size) < 1e7:
        text = f"{float(text):f}".rstrip("0").rstrip(".")
    return text
