"""Collision shapes as contact sees them: a little smaller, and rounder by as much.

Shapes that overlap by less than that are still apart at heart, and where they touch follows from
their distance, which is far easier to tell than a depth.
"""

from __future__ import annotations

import numpy as np

from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.kinematics.overlaps.shapes import PlacedCore, ShapeArrays, core_of, shape_arrays
from mooring.model import Robot
from mooring.model.collision.hulls import hull_mesh, shrunk_hull
from mooring.model.shapes import Box, Cylinder, Hull, MeshShape, PlacedShape
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
        PlacedCore(body, *_rounded(placed), placed.in_link(tree.neutral_frames[body]))
        for body, name in enumerate(tree.links)
        for placed in robot.links[name].collisions
    ]
    probe = PlacedCore(0, np.zeros((1, 3)), (0.0, 0.0), 0.0, np.eye(4))
    return shape_arrays([*cores, probe])


Core = tuple[Array | None, tuple[float, float], float]
"""Points (None for a cylinder), a cylinder's size, and the radius around."""


def _rounded(placed: PlacedShape) -> Core:
    shape = placed.shape
    if isinstance(shape, Box):
        by = min(_ROUND, _SHARE * min(shape.size) / 2)
        inner = Box(tuple(side - 2 * by for side in shape.size))  # type: ignore[arg-type]
        points, size, _ = core_of(PlacedShape(inner, placed.placement))
        return points, size, by
    if isinstance(shape, Cylinder):
        by = min(_ROUND, _SHARE * min(shape.radius, shape.length / 2))
        return None, (shape.radius - by, shape.length / 2 - by), by
    if isinstance(shape, Hull | MeshShape):
        return _rounded_hull(shape)
    return core_of(placed)


def _rounded_hull(shape: Hull | MeshShape) -> Core:
    points = shape.mesh.vertices
    try:
        hull = hull_mesh(points)
        by = min(_ROUND, _SHARE * float(np.ptp(points, axis=0).min()) / 2)
        points = shrunk_hull(hull, by).vertices
    except ModelError:
        # Flat: it has no inside to shrink to.
        return np.ascontiguousarray(points, dtype=float), (0.0, 0.0), 0.0
    if len(points) > _MOST_CORNERS:
        points = _fewer(points)
    return np.ascontiguousarray(points), (0.0, 0.0), by


def _fewer(points: Array) -> Array:
    """The corners farthest out in directions spread evenly, by Fibonacci's lattice."""
    number = np.arange(_MOST_CORNERS) + 0.5
    height = 1 - 2 * number / _MOST_CORNERS
    angle = np.pi * (1 + 5**0.5) * number
    across = np.sqrt(1 - height**2)
    ways = np.column_stack([across * np.cos(angle), across * np.sin(angle), height])
    return np.asarray(points[np.unique((points @ ways.T).argmax(axis=0))])
