"""Where a fused body is cut, in the coordinates of the assembly."""

from __future__ import annotations

from dataclasses import dataclass

from mooring.geometry import Array


@dataclass(frozen=True, eq=False)
class PlaneCut:
    """Along a plane.

    Attributes:
        through: a point on it, (3,) [m].
        normal: (3,), of any length.
    """

    through: Array
    normal: Array


@dataclass(frozen=True, eq=False)
class BoxCut:
    """What is inside a box with sides along the axes, from the rest.

    Attributes:
        low, high: two opposite corners, (3,) [m].
    """

    low: Array
    high: Array


@dataclass(frozen=True, eq=False)
class CylinderCut:
    """What is inside a cylinder, from the rest.

    Attributes:
        start, end: the centres of its ends, (3,) [m].
        radius: [m].
    """

    start: Array
    end: Array
    radius: float


@dataclass(frozen=True, eq=False)
class NeckCut:
    """Where the body is narrowest.

    Attributes:
        near: a point near the neck, (3,) [m]; the narrowest place of the whole body if not given.
    """

    near: Array | None = None


@dataclass(frozen=True, eq=False)
class CreaseCut:
    """Where smooth regions of its surface meet in a crease that goes inwards.

    Attributes:
        angle: the least by which the surface bends there [rad].
    """

    angle: float


Cut = PlaneCut | BoxCut | CylinderCut | NeckCut | CreaseCut
