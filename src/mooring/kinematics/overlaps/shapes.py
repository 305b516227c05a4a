"""The collision shapes of a robot as arrays."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.kinematics.overlaps.kernels.support import CYLINDER, POINTS
from mooring.model import Robot
from mooring.model.shapes import Box, Capsule, Cylinder, PlacedShape, Sphere
from mooring.tree import Tree
from mooring.tree.arrays import Indices


class ShapeArrays(NamedTuple):
    """One row a shape; those of a body lie next to each other, bodies in the tree's order."""

    body: Indices
    """(s,)"""
    kind: Indices
    """(s,) POINTS or CYLINDER"""
    first: Indices
    """(s,) index of its first point"""
    last: Indices
    """(s,) index after its last point"""
    points: Array
    """(p, 3) of all shapes, each in its shape's frame [m]"""
    size: Array
    """(s, 2) radius and half the length of a cylinder [m]"""
    radius: Array
    """(s,) how much rounder than its points it is [m]"""
    rotation: Array
    """(s, 3, 3) of the shape on its body"""
    translation: Array
    """(s, 3) [m]"""
    ball: Array
    """(s, 4) middle, in the shape's frame, and radius of a ball around it [m]"""


class Shapes(NamedTuple):
    """The shapes, and what belongs to them.

    Attributes:
        arrays: for kernels.
        rows: from and to of each body's shapes, (n_links, 2).
        hulled: names of links with a mesh among their shapes, which counts as its hull.
    """

    arrays: ShapeArrays
    rows: Indices
    hulled: tuple[str, ...]


def shapes_of(robot: Robot, tree: Tree) -> Shapes:
    """The collision shapes of a robot; a mesh counts as its convex hull.

    Args:
        robot, tree: the robot, and its tree.
    """
    bodies: list[int] = []
    kinds: list[int] = []
    firsts: list[int] = []
    lasts: list[int] = []
    clouds: list[Array] = []
    sizes: list[tuple[float, float]] = []
    radii: list[float] = []
    places: list[Array] = []
    rows = np.zeros((len(tree.links), 2), dtype=np.int64)
    hulled = []
    total = 0
    for body, name in enumerate(tree.links):
        rows[body, 0] = len(bodies)
        for shape in robot.links[name].collisions:
            cloud, size, radius = core_of(shape)
            if cloud is None:
                kind, points = CYLINDER, np.zeros((0, 3))
            else:
                kind, points = POINTS, cloud
            if shape.shape.kind == "mesh" and name not in hulled:
                hulled.append(name)
            bodies.append(body)
            kinds.append(kind)
            firsts.append(total)
            lasts.append(total + len(points))
            clouds.append(points)
            sizes.append(size)
            radii.append(radius)
            places.append(shape.in_link(tree.neutral_frames[body]))
            total += len(points)
        rows[body, 1] = len(bodies)
    matrices = np.array(places, dtype=float).reshape(-1, 4, 4)
    balls = [
        ball_around(points, size, radius)
        for points, size, radius in zip(clouds, sizes, radii, strict=True)
    ]
    arrays = ShapeArrays(
        np.array(bodies, dtype=np.int64),
        np.array(kinds, dtype=np.int64),
        np.array(firsts, dtype=np.int64),
        np.array(lasts, dtype=np.int64),
        np.ascontiguousarray(np.vstack([np.zeros((0, 3)), *clouds])),
        np.array(sizes, dtype=float).reshape(-1, 2),
        np.array(radii, dtype=float),
        np.ascontiguousarray(matrices[:, :3, :3]),
        np.ascontiguousarray(matrices[:, :3, 3]),
        np.array(balls, dtype=float).reshape(-1, 4),
    )
    return Shapes(arrays, rows, tuple(hulled))


def core_of(placed: PlacedShape) -> tuple[Array | None, tuple[float, float], float]:
    """Points (None for a cylinder), a cylinder's radius and half length, and the radius around."""
    shape = placed.shape
    if isinstance(shape, Sphere):
        return np.zeros((1, 3)), (0.0, 0.0), shape.radius
    if isinstance(shape, Capsule):
        half = shape.length / 2
        return np.array([[0, 0, -half], [0, 0, half]]), (0.0, 0.0), shape.radius
    if isinstance(shape, Cylinder):
        return None, (shape.radius, shape.length / 2), 0.0
    if isinstance(shape, Box):
        signs = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)])
        return signs * np.array(shape.size) / 2, (0.0, 0.0), 0.0
    vertices = shape.mesh.vertices
    if shape.kind == "mesh":
        vertices = _hull(vertices)
    return np.ascontiguousarray(vertices, dtype=float), (0.0, 0.0), 0.0


def ball_around(points: Array, size: tuple[float, float], radius: float) -> tuple[float, ...]:
    if not len(points):
        return 0.0, 0.0, 0.0, float(np.hypot(*size))
    middle = (points.min(axis=0) + points.max(axis=0)) / 2
    reach = float(np.linalg.norm(points - middle, axis=1).max())
    return *(float(v) for v in middle), reach + radius


def _hull(points: Array) -> Array:
    from mooring.model.collision.hulls import hull_mesh

    try:
        return hull_mesh(points).vertices
    except ModelError:
        # Flat: its points are as good.
        return points
