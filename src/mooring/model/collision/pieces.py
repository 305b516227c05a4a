"""The convex pieces of what is not convex."""

from __future__ import annotations

import heapq
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import count

import numpy as np

from mooring.cad.mesh import Mesh
from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.model.collision.judge import Outside, hull_volume
from mooring.model.shapes.hulls import hull_mesh

_CUTS = 24
"""Places to cut at, along each axis."""
_WORTHWHILE = 0.02
"""A cut that saves less than this share of the whole hull's volume is not made."""


@dataclass(frozen=True)
class _Cut:
    """A piece, and the best way to cut it in two."""

    triangles: Array
    volume: float
    halves: tuple[Array, Array] | None
    saved: float


def convex_pieces(bodies: Sequence[Array], most: int, error: float | None) -> list[Mesh]:
    """Convex hulls that together cover closed bodies, closer than one hull does.

    Pieces are cut along the coordinate axes, always where the most volume of hulls is saved; each
    piece is the hull of what of the surface is in it, so nothing is left uncovered.

    Args:
        bodies: the triangles of each, (m, 3, 3) [m].
        most: so many pieces at most.
        error: stop when no piece stands out from the surface by more than this [m].

    Raises:
        ModelError: the triangles lie in a plane.
    """
    triangles = np.concatenate(bodies)
    whole = hull_volume(triangles.reshape(-1, 3))
    if whole == 0:
        raise ModelError("the parts are flat and have no hull with a volume")
    outside = None if error is None else Outside(bodies, bodies)
    ticket = count()
    waiting: list[tuple[float, int, _Cut]] = []

    def put(piece: _Cut) -> None:
        """The piece that is worst by what is asked for is cut first."""
        worst = piece.saved if outside is None else _overhang(piece, outside)
        heapq.heappush(waiting, (-worst, next(ticket), piece))

    put(_best_cut(triangles))
    done: list[_Cut] = []
    while waiting and len(waiting) + len(done) < most:
        worst, _, piece = heapq.heappop(waiting)
        enough = _WORTHWHILE * whole if error is None else error
        if piece.halves is None or -worst <= enough:
            done.append(piece)
            continue
        for half in piece.halves:
            put(_best_cut(half))
    pieces = [*done, *(piece for _, _, piece in waiting)]
    return [hull_mesh(piece.triangles.reshape(-1, 3)) for piece in pieces if piece.volume > 0]


def _overhang(piece: _Cut, outside: Outside) -> float:
    mesh = hull_mesh(piece.triangles.reshape(-1, 3))
    return outside.farthest(mesh.corners.mean(axis=1))


def _best_cut(triangles: Array) -> _Cut:
    volume = hull_volume(triangles.reshape(-1, 3))
    best = _Cut(triangles, volume, None, 0.0)
    if volume == 0:
        return best
    for axis in range(3):
        for value in _places(triangles[..., axis]):
            halves = _clipped(triangles, axis, value)
            if not all(len(half) for half in halves):
                continue
            left = [hull_volume(half.reshape(-1, 3)) for half in halves]
            # A half without volume would leave a part of the surface uncovered.
            if min(left) > 0 and volume - sum(left) > best.saved + 1e-9 * volume:
                best = _Cut(triangles, volume, halves, volume - sum(left))
    return best


def _places(values: Array) -> Array:
    """Where steps and edges are: the coordinates that many corners share, spread over the range."""
    low, high = float(values.min()), float(values.max())
    inside = np.unique(np.round(values, 6))
    inside = inside[(inside > low + 1e-6) & (inside < high - 1e-6)]
    if len(inside) <= _CUTS:
        even = np.linspace(low, high, 8)[1:-1]
        return np.unique(np.concatenate([inside, even]))
    return np.unique(np.quantile(inside, np.linspace(0, 1, _CUTS)))


def _clipped(triangles: Array, axis: int, value: float) -> tuple[Array, Array]:
    """The triangles below and above a plane; those that cross it are cut (Sutherland, Hodgman)."""
    offsets = triangles[..., axis] - value
    below, above = (offsets <= 0).all(axis=1), (offsets >= 0).all(axis=1)
    lower, upper = [triangles[below]], [triangles[above & ~below]]
    crossing = ~below & ~above
    t, d = triangles[crossing], offsets[crossing]
    # Turn each so that its first corner is alone on its side.
    signs = d > 0
    lonely = np.where(signs.sum(axis=1) == 1, signs.argmax(axis=1), (~signs).argmax(axis=1))
    order = (lonely[:, None] + np.arange(3)) % 3
    rows = np.arange(len(t))[:, None]
    t, d = t[rows, order], d[rows, order]
    one = t[:, 0] + (t[:, 1] - t[:, 0]) * (d[:, 0] / (d[:, 0] - d[:, 1]))[:, None]
    two = t[:, 0] + (t[:, 2] - t[:, 0]) * (d[:, 0] / (d[:, 0] - d[:, 2]))[:, None]
    tip = np.stack([t[:, 0], one, two], axis=1)
    rest = np.concatenate(
        [np.stack([one, t[:, 1], t[:, 2]], axis=1), np.stack([one, t[:, 2], two], axis=1)]
    )
    tip_above = d[:, 0] > 0
    twice = np.tile(tip_above, 2)
    lower += [tip[~tip_above], rest[twice]]
    upper += [tip[tip_above], rest[~twice]]
    return np.concatenate(lower), np.concatenate(upper)
