"""What can touch what, as plain arrays for kernels."""

from __future__ import annotations

from typing import NamedTuple

from mooring.geometry import Array
from mooring.kinematics.overlaps.shapes import ShapeArrays
from mooring.tree.arrays import Indices

NO_GROUND, LEVEL_GROUND, UNEVEN_GROUND = 0, 1, 2


class ContactArrays(NamedTuple):
    """Shapes, their surfaces, the pairs of them that may touch, and the ground."""

    shapes: ShapeArrays
    """a little smaller than they are, and rounder by as much"""
    surface: Array
    """(s + 1, 4) friction, restitution, rolling and spinning friction [m]; the ground's last"""
    pairs: Indices
    """(p, 2) shapes that may touch"""
    grounded: Indices
    """(g,) shapes that may touch the ground"""
    ground: int
    """NO_GROUND, LEVEL_GROUND or UNEVEN_GROUND"""
    level: float
    """height of level ground [m]"""
    heights: Array
    """(i, j) of uneven ground [m], by x and y"""
    grid: Array
    """(4,) x and y of heights[0, 0], and the way between heights along both [m]"""


class ContactState(NamedTuple):
    """What is kept of contacts from step to step; kernels update it in place."""

    path: Array
    """(s,) how far each shape can have moved so far [m]"""
    free_until: Array
    """(p,) the sum of both shapes' paths up to which they cannot touch [m]"""
    apart: Array
    """(p, 3) the normal when last measured"""
    used: Indices
    """(1,) contacts in the last step"""
    which: Indices
    """(c, 3) of each: its pair, or for the ground the number of pairs plus its shape; bodies"""
    where: Array
    """(c, 11) point, normal from the first to the second, gap; friction, restitution, rolling and
    spinning friction"""
    before: Indices
    """(c,) pairs of the contacts of the step before"""
    impulses: Array
    """(c, 6) of the step before: where, and the impulse on the second body"""
    before_used: Indices
    """(1,)"""
