"""The collision shapes of a robot as arrays."""

from __future__ import annotations

from collections.abc import Sequence
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
    placed: list[PlacedCore] = []
    rows = np.zeros((len(tree.links), 2), dtype=np.int64)
    hulled = []
    for body, name in enumerate(tree.links):
        rows[body, 0] = len(placed)
        for shape in robot.links[name].collisions:
            if shape.shape.kind == "mesh" and name not in hulled:
                hulled.append(name)
            place = shape.in_link(tree.neutral_frames[body])
            placed.append(PlacedCore(body, *core_of(shape), place))
        rows[body, 1] = len(placed)
    return Shapes(shape_arrays(placed), rows, tuple(hulled))


class PlacedCore(NamedTuple):
    """What is left of a shape when its roundness is taken off.

    Attributes:
        body: which it is on.
        points: (n, 3) [m]; None for a cylinder.
        size: a cylinder's radius and half its length [m].
        radius: the roundness [m].
        place: on the body, (4, 4).
    """

    body: int
    points: Array | None
    size: tuple[float, float]
    radius: float
    place: Array


def shape_arrays(cores: Sequence[PlacedCore]) -> ShapeArrays:
    """Cores as arrays, in their order."""
    none = np.zeros((0, 3))
    clouds = [none if core.points is None else core.points for core in cores]
    ends = np.cumsum([len(cloud) for cloud in clouds], dtype=np.int64)
    places = np.array([core.place for core in cores], dtype=float).reshape(-1, 4, 4)
    balls = [
        _ball(cloud, core.size, core.radius) for cloud, core in zip(clouds, cores, strict=True)
    ]
    return ShapeArrays(
        body=np.array([core.body for core in cores], dtype=np.int64),
        kind=np.array([CYLINDER if c.points is None else POINTS for c in cores], dtype=np.int64),
        first=np.concatenate([np.zeros(1, dtype=np.int64), ends])[: len(cores)],
        last=ends,
        points=np.ascontiguousarray(np.vstack([none, *clouds])),
        size=np.array([core.size for core in cores], dtype=float).reshape(-1, 2),
        radius=np.array([core.radius for core in cores], dtype=float),
        rotation=np.ascontiguousarray(places[:, :3, :3]),
        translation=np.ascontiguousarray(places[:, :3, 3]),
        ball=np.array(balls, dtype=float).reshape(-1, 4),
    )


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


def _ball(points: Array, size: tuple[float, float], radius: float) -> tuple[float, ...]:
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
