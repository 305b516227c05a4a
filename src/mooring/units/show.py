"""From SI to what people read."""

from __future__ import annotations

import math
from collections.abc import Iterable

from mooring.units.dimensions import DIMENSIONS

# For each dimension the units it is shown in, largest first, with the SI value of one.
_SHOWN: dict[str, tuple[tuple[str, float], ...]] = {
    "length": (("m", 1.0), ("mm", 1e-3)),
    "angle": (("deg", math.pi / 180),),
    "mass": (("kg", 1.0), ("g", 1e-3)),
    "velocity": (("m/s", 1.0), ("mm/s", 1e-3)),
    "angular velocity": (("deg/s", math.pi / 180),),
    "force": (("kN", 1e3), ("N", 1.0)),
    "torque": (("kN*m", 1e3), ("N*m", 1.0)),
    "linear stiffness": (("kN/m", 1e3), ("N/m", 1.0)),
    "angular stiffness": (("kN*m/rad", 1e3), ("N*m/rad", 1.0)),
    "volume": (("m^3", 1.0), ("dm^3", 1e-3), ("cm^3", 1e-6)),
    "time": (("s", 1.0), ("ms", 1e-3)),
    "energy": (("kJ", 1e3), ("J", 1.0)),
}


_PLAIN = 1e7
"""Below this people write all digits."""


def show_point(point: Iterable[float]) -> str:
    """A point in [m], as `(1, 2.5, 0) mm`."""
    return "(" + ", ".join(f"{1000 * value + 0.0:.4g}" for value in point) + ") mm"


def show(value: float, dimension: str, digits: int = 4) -> str:
    """A quantity in the unit a person would choose, to some significant digits.

    >>> show(0.025, "length")
    '25 mm'
    >>> show(-1.5707963267948966, "angle")
    '-90 deg'
    >>> show(0.0, "torque")
    '0 N*m'
    """
    units = _SHOWN.get(dimension) or ((DIMENSIONS[dimension].si, 1.0),)
    if not math.isfinite(value):
        return f"{value:g} {units[0][0]}"
    # Nothing is told in the unit in which people would say a little.
    least = units[-1] if value else next((u for u in units if u[1] == 1.0), units[0])
    unit, size = next((u for u in units if abs(value) >= u[1]), least)
    text = f"{value / size:.{digits}g}"
    if "e+" in text and abs(value / size) < _PLAIN:
        text = f"{float(text):.0f}"
    return f"{text} {unit}"
