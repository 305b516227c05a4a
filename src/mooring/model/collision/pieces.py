"""The convex pieces of what is not convex."""

from __future__ import annotations

import heapq
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import count

import numpy as np

from mooring.cad.mesh import Mesh
from mooring.cad.spreading import evenly
from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.model.collision.judge import Outside, hull_volume, on_surface
from mooring.model.shapes.hulls import hull_mesh

_CUTS = 24
"""Places to cut at, along each axis."""
_WORTHWHILE = 0.02
"""A cut that saves less than this share of the whole hull's volume is not made."""
_MANY = 160
_WAYS = evenly(128)
_GRAIN = 1e-6
"""[m] Places to cut at are told apart by so much."""
_CONVEX = 1e-3
"""A piece that stands out by less than this share of the whole size is as good as convex."""


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
    piece is the hull of what of the surface is in it, so nothing is left uncovered. Where no single
    cut saves anything, as in a ring, the one is made after which the next saves most.

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
    outside = Outside(bodies, bodies)
    grain = _CONVEX * float(np.ptp(triangles.reshape(-1, 3), axis=0).max())
    ticket = count()
    waiting: list[tuple[float, int, _Cut]] = []
    done: list[_Cut] = []

    def put(half: Array) -> None:
        """The piece that is worst by what is asked for is cut first."""
        hull = hull_volume(half.reshape(-1, 3))
        if hull == 0:
            return
        off = _overhang(half, outside)
        if off <= (grain if error is None else max(error, grain)):
            done.append(_Cut(half, hull, None, 0.0))
            return
        piece = _best_cut(half, _WORTHWHILE * whole)
        heapq.heappush(waiting, (-piece.saved if error is None else -off, next(ticket), piece))

    put(triangles)
    while waiting and len(waiting) + len(done) < most:
        _, _, piece = heapq.heappop(waiting)
        if piece.halves is None or (error is None and piece.saved < _WORTHWHILE * whole):
            done.append(piece)
            continue
        for half in piece.halves:
            put(half)
    pieces = [*done, *(piece for _, _, piece in waiting)]
    return [hull_mesh(piece.triangles.reshape(-1, 3)) for piece in pieces]


def _overhang(triangles: Array, outside: Outside) -> float:
    return outside.farthest(on_surface(hull_mesh(triangles.reshape(-1, 3))))


def _best_cut(triangles: Array, worthwhile: float) -> _Cut:
    """The cut that saves most; if that is not worthwhile, the one after which the next does."""
    best = _single_cut(triangles)
    if best.saved >= worthwhile:
        return best
    for axis in range(3):
        low, high = triangles[..., axis].min(), triangles[..., axis].max()
        halves = _clipped(triangles, axis, float(low + high) / 2)
        if not all(len(half) for half in halves):
            continue
        cuts = [_single_cut(half) for half in halves]
        if min(cut.volume for cut in cuts) == 0:
            continue
        saved = best.volume - sum(cut.volume - cut.saved for cut in cuts)
        if saved > best.saved + 1e-9 * best.volume:
            best = _Cut(triangles, best.volume, halves, saved)
    return best


def _outermost(points: Array) -> Array:
    """Of many points those that are outermost in any of many directions."""
    if len(points) <= _MANY:
        return points
    return np.asarray(points[np.unique(np.argmax(_WAYS @ points.T, axis=1))])


def _single_cut(triangles: Array) -> _Cut:
    volume = hull_volume(_outermost(triangles.reshape(-1, 3)))
    best = _Cut(triangles, volume, None, 0.0)
    if volume == 0:
        return best
    chosen: tuple[int, float] | None = None
    for axis in range(3):
        for value, left in _volumes(triangles, axis):
            # A half without volume would leave a part of the surface uncovered.
            if min(left) > 0 and volume - sum(left) > best.saved + 1e-9 * volume:
                best = _Cut(triangles, volume, None, volume - sum(left))
                chosen = axis, value
    if chosen is None:
        return best
    return _Cut(triangles, volume, _clipped(triangles, *chosen), best.saved)


def _volumes(triangles: Array, axis: int) -> Iterator[tuple[float, tuple[float, float]]]:
    """Places to cut at across an axis, and about how large the hulls of both halves would be.

    Triangles between two places give their outermost points, once; a half is made of those of the
    slabs on its side, and of what the cut leaves of the triangles it crosses.
    """
    values = triangles[..., axis]
    places = _places(values)
    low, high = values.min(axis=1), values.max(axis=1)
    # So many places are below a triangle; what lies in one counts as below it.
    above = np.searchsorted(places, low + np.where(high - low > _GRAIN, _GRAIN, -_GRAIN), "right")
    below = np.searchsorted(places, high - _GRAIN)
    numbers = range(len(places) + 1)
    uppers = [_outermost(triangles[above == number].reshape(-1, 3)) for number in numbers]
    lowers = [_outermost(triangles[below == number].reshape(-1, 3)) for number in numbers]
    for number, value in enumerate(places):
        left, right = _crossed(triangles[(above <= number) & (below > number)], axis, float(value))
        halves = ([*lowers[: number + 1], left], [*uppers[number + 1 :], right])
        one, other = (hull_volume(_outermost(np.concatenate(half))) for half in halves)
        yield float(value), (one, other)


def _crossed(triangles: Array, axis: int, value: float) -> tuple[Array, Array]:
    """The corners that a plane leaves of triangles that it crosses, below and above it."""
    ends = np.roll(triangles, -1, axis=1).reshape(-1, 3)
    starts = triangles.reshape(-1, 3)
    one, other = starts[:, axis] - value, ends[:, axis] - value
    cut = one * other < 0
    share = (one[cut] / (one[cut] - other[cut]))[:, None]
    edge = starts[cut] + share * (ends[cut] - starts[cut])
    lower, upper = starts[one <= 0], starts[one >= 0]
    return np.concatenate([lower, edge]), np.concatenate([upper, edge])


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
