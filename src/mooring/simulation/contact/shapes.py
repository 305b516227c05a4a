"""Collision shapes as contact sees them: a little smaller, and rounder by as much.

Shapes that overlap by less than that are still apart at heart, and where they touch follows from
their distance, which is far easier to tell than a depth.
"""

from __future__ import annotations

import numpy as np

from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.kinematics.overlaps.shapes import PlacedCore, ShapeArrays, shape_arrays
from mooring.model import Robot
from mooring.model.shapes import Core, Shape, convex
from mooring.tree import Tree

_ROUND = 1e-3
"""By how much, at most [m]."""
_SHARE = 0.05
"""And at most this share of a shape's smallest half."""
_MOST_CORNERS = 256
"""A hull with more is not worth its time."""


def contact_shapes(robot: Robot, tree: Tree) -> ShapeArrays:
    """The shapes of all links, and last a mere point, which probes the ground."""
    cores = [
        PlacedCore(body, _rounded(placed.shape), placed.in_link(tree.neutral_frames[body]))
        for body, name in enumerate(tree.links)
        for placed in robot.links[name].collisions
    ]
    probe = PlacedCore(0, Core(np.zeros((1, 3))), np.eye(4))
    return shape_arrays([*cores, probe])


def _rounded(shape: Shape) -> Core:
    """The core of a shape made a little smaller, and rounder by as much."""
    whole = convex(shape)
    if whole.core.radius > 0:
        return whole.core
    by = min(_ROUND, _SHARE * whole.half_thickness)
    try:
        inner = whole.shrunk(by).core
    except ModelError:
        # Flat: it has no inside to shrink to.
        return whole.core
    points = inner.points
    if points is not None and len(points) > _MOST_CORNERS:
        points = _fewer(points)
    return Core(points, inner.size, by)


def _fewer(points: Array) -> Array:
    """The corners farthest out in directions spread evenly, by Fibonacci's lattice."""
    number = np.arange(_MOST_CORNERS) + 0.5
    height = 1 - 2 * number / _MOST_CORNERS
    angle = np.pi * (1 + 5**0.5) * number
    across = np.sqrt(1 - height**2)
    ways = np.column_stack([across * np.cos(angle), across * np.sin(angle), height])
    return np.asarray(points[np.unique((points @ ways.T).argmax(axis=0))])
