"""What can touch what, as plain arrays for the compiled core."""

from __future__ import annotations

from typing import NamedTuple

from mooring._native.simulation import GROUND_CODES
from mooring.geometry import Array
from mooring.kinematics.overlaps.shapes import ShapeArrays
from mooring.tree.arrays import Indices

NO_GROUND, LEVEL_GROUND, UNEVEN_GROUND = (
    GROUND_CODES[name] for name in ("none", "level", "uneven")
)


class ContactArrays(NamedTuple):
    """Shapes, their surfaces, what passes through what, and the ground."""

    shapes: ShapeArrays
    """a little smaller than they are, and rounder by as much"""
    surface: Array
    """(s + 1, 6) friction, restitution, rolling and spinning friction [m], stiffness [N/m] and
    damping [N s/m] with inf for rigid; the ground's last"""
    group: Indices
    """(b,) of each body: bodies of one group cannot touch each other"""
    apart: Indices
    """(p, 2) other pairs of bodies that pass through each other"""
    touches: bool
    """whether anything but the ground is touched"""
    ground: int
    """NO_GROUND, LEVEL_GROUND or UNEVEN_GROUND"""
    level: float
    """height of level ground [m]"""
    heights: Array
    """(i, j) of uneven ground [m], by x and y"""
    grid: Array
    """(4,) x and y of heights[0, 0], and the way between heights along both [m]"""
