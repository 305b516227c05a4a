"""How far a joint goes before parts meet."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from mooring.cad.hierarchy import Boxes
from mooring.cad.part import Part
from mooring.cad.spreading import evenly, spread_over
from mooring.cad.touching.inside import inside
from mooring.cad.touching.lines import Line
from mooring.geometry import Array, apply, frame_along, rotation_about

_POINTS = 1500
"""On all parts of a side, spread evenly, besides their corners."""
_EACH = (24, 160)
"""At least and at most so many on each part, and of its corners, besides the outermost."""
_WAYS = evenly(64)
_STEPS = 120
"""A slide goes all its way in so many steps."""
_COARSE = 24
"""What is outermost turns by this share of its radius at a time."""
_HALVINGS = 4
_FULL_TURN = 2 * np.pi
_ASKED = 24
"""So many of the points that seem to be inside are asked whether they are."""


@dataclass(frozen=True)
class Stop:
    """Where a motion ends.

    Attributes:
        at: the last free position [rad or m].
        parts: what meets, the moving part first; None where nothing does.
    """

    at: float
    parts: tuple[str, str] | None = None


def free_travel(
    moving: Sequence[Part], still: Sequence[Part], line: Line, turns: bool, near: float
) -> tuple[Stop, Stop]:
    """How far parts can be turned about a line or slid along it before they meet others, both ways.

    Points on both sides are followed: each is looked at again only when it has come as far as it
    was away, so that nothing is passed through (Mirtich and Canny, "Impulse-based simulation of
    rigid bodies", 1995, bound motions in this way). What touches at the start may go on touching.

    Args:
        moving: the parts that move together.
        still: all others.
        line: the axis.
        turns: whether they turn; otherwise they slide.
        near: how far surfaces may be off that touch, and how deep is not yet inside [m].
    """
    frame = frame_along(line.direction)
    swept = _ring(np.concatenate([part.corners for part in moving]), line, frame, turns)
    others = []
    for part in still:
        # By the rings or the shafts they fill; first those of a ball around it.
        middle, radius = part.ball
        ball = _ring(np.tile(middle, (1, 3, 1)), line, frame, turns)
        if not _meet(swept, ball, near + radius):
            continue
        if _meet(swept, _ring(part.corners, line, frame, turns), near):
            others.append(part)
    if not others:
        everywhere = _FULL_TURN if turns else np.inf
        return Stop(-everywhere), Stop(everywhere)
    there = _ring(np.concatenate([part.corners for part in others]), line, frame, turns)

    def kept(ring: tuple[Array, Array], points: Array) -> NDArray[np.bool_]:
        """Which points come past a ring or shaft at all, (n,)."""
        local = (points - line.origin) @ frame
        where = local[:, :2]
        if turns:
            where = np.column_stack([np.linalg.norm(where, axis=1), local[:, 2]])
        return np.asarray(((where >= ring[0] - near) & (where <= ring[1] + near)).all(axis=1))

    sides = (
        _Side(moving, others, near, partial(kept, there)),
        _Side(others, moving, near, partial(kept, swept)),
    )
    points = np.concatenate([part.vertices for part in (*moving, *others)])
    away = (points - line.origin) @ frame
    radius = float(np.linalg.norm(away[:, :2], axis=1).max())
    reach = _FULL_TURN if turns else float(np.ptp(away[:, 2]))
    step = reach / _STEPS
    if turns:
        step = max(2 * near, radius / _COARSE) / radius
    upper = _go(sides, line, turns, step, reach)
    if upper.parts is None and turns:
        return Stop(-_FULL_TURN), upper
    lower = _go(sides, line, turns, -step, reach - upper.at if turns else reach)
    return lower, upper


class _Side:
    """Points of some parts, and the parts that they may run into."""

    def __init__(
        self,
        own: Sequence[Part],
        others: Sequence[Part],
        near: float,
        kept: Callable[[Array], NDArray[np.bool_]],
    ) -> None:
        points, names = [], []
        each = int(np.clip(_POINTS / len(own), *_EACH))
        for number, part in enumerate(own):
            stride = max(1, len(part.vertices) // each)
            outermost = np.unique(np.argmax(_WAYS @ part.vertices.T, axis=1))
            chosen = [
                apply(part.placement, spread_over(part.mesh, each)[0]),
                part.vertices[outermost],
                part.vertices[::stride],
            ]
            points += chosen
            names.append(np.full(sum(len(some) for some in chosen), number))
        # Those that can never come to the others are not followed.
        all_points = np.concatenate(points)
        chosen_ones = kept(all_points)
        self.points = all_points[chosen_ones]
        self.of = np.concatenate(names)[chosen_ones]
        self.own = [part.name for part in own]
        self.others = others
        self.near = near
        corners = [part.corners for part in others]
        self.triangles = np.concatenate(corners)
        self.part_of = np.repeat(np.arange(len(others)), [len(c) for c in corners])
        self.boxes = Boxes(self.triangles)
        a, b, c = np.moveaxis(self.triangles, 1, 0)
        self.normals = np.cross(b - a, c - a)
        # What is inside another part from the start is a matter of the CAD, not of a stop.
        self.ways, inner = self.look(self.points)
        self.ways[inner] = np.inf

    def look(self, points: Array) -> tuple[Array, NDArray[np.bool_]]:
        """How far points (n, 3) can go before they are deep in others, and which are, (n,) each."""
        gaps, which = self.boxes.nearest(points)
        behind = np.einsum("ij,ij->i", points - self.triangles[which, 0], self.normals[which]) < 0
        deep = behind & (gaps > self.near)
        sure = np.zeros(len(points), dtype=bool)
        for number in np.unique(self.part_of[which[deep]]):
            here = np.flatnonzero(deep & (self.part_of[which] == number))
            here = here[np.argsort(-gaps[here])][:_ASKED]
            if self.others[number].geometry.closed:
                sure[here] = inside(self.others[number].corners, points[here])
        return np.where(behind, self.near - gaps, self.near + gaps), sure

    def met(self, points: Array) -> str:
        """The part that a point inside it ran into."""
        _, which = self.boxes.nearest(points)
        return self.others[int(self.part_of[which[0]])].name


def _go(sides: tuple[_Side, _Side], line: Line, turns: bool, step: float, reach: float) -> Stop:
    """Go on in steps until something is inside something."""
    radii = [
        np.linalg.norm(np.cross(side.points - line.origin, line.direction), axis=1)
        if turns
        else np.ones(len(side.points))
        for side in sides
    ]
    left = [side.ways.copy() for side in sides]
    free = 0.0
    for number in range(1, int(np.ceil(reach / abs(step))) + 1):
        at = float(np.sign(step)) * min(number * abs(step), reach)
        for k, side in enumerate(sides):
            left[k] -= radii[k] * abs(at - free)
            due = np.flatnonzero(left[k] <= 0)
            if not len(due):
                continue
            way = 1.0 if k == 0 else -1.0
            ways, inner = side.look(_moved(side.points[due], line, turns, way * at))
            if inner.any():
                free, point = _refined(side, due[inner], line, turns, way, free, at)
                own = side.own[int(side.of[point])]
                there = _moved(side.points[[point]], line, turns, way * at)
                if not turns:
                    # It was inside by as much as is not yet called so.
                    free = math.copysign(max(abs(free) - side.near, 0.0), step)
                return Stop(free, (own, side.met(there)) if k == 0 else (side.met(there), own))
            left[k][due] = ways
        free = at
    return Stop(free)


def _refined(
    side: _Side,
    points: NDArray[np.int64],
    line: Line,
    turns: bool,
    way: float,
    free: float,
    at: float,
) -> tuple[float, int]:
    """How far it really goes between a free position and one that is not, and which point stops it.

    Args:
        side: whose points.
        points: those that are inside at the second position.
        line, turns: the motion.
        way: 1, or -1 where the others move.
        free, at: the two positions.
    """
    for _ in range(_HALVINGS):
        middle = (free + at) / 2
        _, inner = side.look(_moved(side.points[points], line, turns, way * middle))
        if inner.any():
            at, points = middle, points[inner]
        else:
            free = middle
    return free, int(points[0])


def _moved(points: Array, line: Line, turns: bool, by: float) -> Array:
    if not turns:
        return np.asarray(points + by * line.direction)
    turn = rotation_about(line.direction, by)
    return np.asarray((points - line.origin) @ turn.T + line.origin)


def _meet(one: tuple[Array, Array], other: tuple[Array, Array], near: float) -> bool:
    return bool((other[0] <= one[1] + near).all() and (one[0] - near <= other[1]).all())


def _ring(triangles: Array, line: Line, frame: Array, turns: bool) -> tuple[Array, Array]:
    """Lowest and highest of what a motion leaves as it is: radius and height, or x and y.

    Args:
        triangles: (m, 3, 3); the middle of a face may be nearer to the axis than its corners.
        line, frame, turns: the motion.
    """
    local = (triangles - line.origin) @ frame
    starts = local[..., :2]
    if not turns:
        flat = starts.reshape(-1, 2)
        return flat.min(axis=0), flat.max(axis=0)
    ends = np.roll(starts, -1, axis=1)
    way = ends - starts
    share = -(starts * way).sum(axis=-1) / np.maximum((way * way).sum(axis=-1), 1e-30)
    nearest = np.linalg.norm(starts + np.clip(share, 0, 1)[..., None] * way, axis=-1).min()
    sides = np.sign(starts[..., 0] * ends[..., 1] - starts[..., 1] * ends[..., 0])
    pierced = bool((np.abs(sides.sum(axis=1)) == 3).any())
    heights = local[..., 2]
    low = np.array([0.0 if pierced else nearest, heights.min()])
    return low, np.array([np.linalg.norm(starts, axis=-1).max(), heights.max()])
