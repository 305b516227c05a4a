"""A timeline as plain arrays."""

from __future__ import annotations

from typing import NamedTuple

from mooring._native.simulation import PROFILE_CODES
from mooring.geometry import Array
from mooring.tree.arrays import Indices

QUINTIC, TRAPEZOID, CUBIC = (PROFILE_CODES[name] for name in ("quintic", "trapezoid", "cubic"))


class Timeline(NamedTuple):
    """The motion of the targets.

    Way k goes from points[k] to points[k + 1] between starts[k] and ends[k]. Between ways, before
    the first and after the last the targets rest. After `again` the way there is gone over and
    over, if `period` is greater than zero, each time farther by `advance`.
    """

    starts: Array
    """(k,) [s]"""
    ends: Array
    kind: Indices
    """(k,) QUINTIC, TRAPEZOID, CUBIC"""
    ramp: Array
    """(k,) the share of a trapezoid's time in which it speeds up"""
    points: Array
    """(k + 1, m)"""
    speeds: Array
    """(k, 2, m) at both ends of a cubic"""
    again: float
    period: float
    advance: Array
    """(m,)"""
