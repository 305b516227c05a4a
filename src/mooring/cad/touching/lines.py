"""Lines in space, and whether two are one."""

from __future__ import annotations

from typing import NamedTuple, Protocol

import numpy as np

from mooring.geometry import Array

_APART = 2e-4
_PARALLEL = 0.99996


class Axial(Protocol):
    """Whatever has an axis: a point on it, and a unit vector along it, (3,) each."""

    @property
    def origin(self) -> Array: ...

    @property
    def direction(self) -> Array: ...


class Line(NamedTuple):
    """An axis and nothing else."""

    origin: Array
    direction: Array


def same_axis(one: Axial, other: Axial) -> bool:
    """Whether two things share an axis, within 0.2 mm and half a degree."""
    return distance_from(one, other.origin) < _APART and parallel(one, other)


def parallel(one: Axial, other: Axial) -> bool:
    """Whether two axes run the same way or the opposite, within half a degree."""
    return abs(float(one.direction @ other.direction)) > _PARALLEL


def distance_from(line: Axial, point: Array) -> float:
    """How far a point (3,) is from an axis [m]."""
    arm = point - line.origin
    return float(np.linalg.norm(arm - line.direction * (arm @ line.direction)))
