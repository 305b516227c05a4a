"""The collision shapes of a robot as arrays."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from mooring._native.tree import CORE_CODES
from mooring._native.tree import Shapes as NativeShapes
from mooring.geometry import Array
from mooring.model import Robot
from mooring.model.shapes import Core
from mooring.tree import Tree
from mooring.tree.arrays import Indices

POINTS, CYLINDER = CORE_CODES["points"], CORE_CODES["cylinder"]


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
        arrays: of all shapes.
        native: the same for the compiled core.
        rows: from and to of each body's shapes, (n_links, 2).
        hulled: names of links with a mesh among their shapes, which counts as its hull.
    """

    arrays: ShapeArrays
    native: NativeShapes
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
            if not shape.shape.convex and name not in hulled:
                hulled.append(name)
            place = shape.in_link(tree.neutral_frames[body])
            placed.append(PlacedCore(body, shape.shape.core, place))
        rows[body, 1] = len(placed)
    arrays = shape_arrays(placed)
    return Shapes(arrays, NativeShapes(arrays), rows, tuple(hulled))


class PlacedCore(NamedTuple):
    """The core of a shape on a body.

    Attributes:
        body: which it is on.
        core: see `Core`.
        place: on the body, (4, 4).
    """

    body: int
    core: Core
    place: Array


def shape_arrays(cores: Sequence[PlacedCore]) -> ShapeArrays:
    """Cores as arrays, in their order."""
    none = np.zeros((0, 3))
    inner = [placed.core for placed in cores]
    clouds = [none if core.points is None else core.points for core in inner]
    ends = np.cumsum([len(cloud) for cloud in clouds], dtype=np.int64)
    places = np.array([core.place for core in cores], dtype=float).reshape(-1, 4, 4)
    balls = [
        _ball(cloud, core.size, core.radius) for cloud, core in zip(clouds, inner, strict=True)
    ]
    return ShapeArrays(
        body=np.array([core.body for core in cores], dtype=np.int64),
        kind=np.array([CYLINDER if c.points is None else POINTS for c in inner], dtype=np.int64),
        first=np.concatenate([np.zeros(1, dtype=np.int64), ends])[: len(cores)],
        last=ends,
        points=np.ascontiguousarray(np.vstack([none, *clouds])),
        size=np.array([core.size for core in inner], dtype=float).reshape(-1, 2),
        radius=np.array([core.radius for core in inner], dtype=float),
        rotation=np.ascontiguousarray(places[:, :3, :3]),
        translation=np.ascontiguousarray(places[:, :3, 3]),
        ball=np.array(balls, dtype=float).reshape(-1, 4),
    )


def _ball(points: Array, size: tuple[float, float], radius: float) -> tuple[float, ...]:
    if not len(points):
        return 0.0, 0.0, 0.0, float(np.hypot(*size))
    middle = (points.min(axis=0) + points.max(axis=0)) / 2
    reach = float(np.linalg.norm(points - middle, axis=1).max())
    return *(float(v) for v in middle), reach + radius
