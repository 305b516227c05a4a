"""What two bodies that touch can still do: relative twists.

Each place where they touch, a point p with a normal n, keeps the relative twist (w, v) from going
against the normal: n (v + w x p) >= 0. All twists that do no such thing are a cone. Those that
leave all places touching, forwards and backwards, are its lineality space; its span has one-sided
ones, too, by which they part. (Lynch and Park, *Modern Robotics*, 2017, section 12.1; surfaces
that slide in themselves: Pottmann and Wallner, *Computational Line Geometry*, 2001.)
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.optimize import nnls

from mooring.geometry import Array

_KEPT = 0.012
"""How much of a unit twist may go against places that touch (a length in a length)."""
_LOOSELY = 0.08
"""The same for facets of a surface that is not known."""
_BOTH_WAYS = 0.02
"""The residual below which pushes from all sides hold each other."""


@dataclass(frozen=True, eq=False)
class Freedoms:
    """Relative twists, as turning (times the scale) and speed at the centre.

    Attributes:
        centre: (3,) [m].
        scale: [m].
        kept: orthonormal; what leaves all places touching, (k, 6).
        open: orthonormal; with it what parts them one way, (m, 6).
    """

    centre: Array
    scale: float
    kept: Array
    open: Array

    def allows(self, axis: Array, origin: Array, turns: bool, *, one_way: bool = False) -> bool:
        """Whether turning about an axis, or sliding along it, is among them.

        Args:
            axis: unit vector, (3,).
            origin: a point on it, (3,) [m].
            turns: or slides.
            one_way: or at least one way.
        """
        twist = self.twist(axis, origin, turns)
        space = self.open if one_way else self.kept
        rest = twist - space.T @ (space @ twist)
        return bool(np.linalg.norm(rest) < 0.05)

    def twist(self, axis: Array, origin: Array, turns: bool) -> Array:
        """A unit twist about or along an axis, (6,)."""
        if not turns:
            return np.concatenate([np.zeros(3), axis])
        twist = np.concatenate([axis * self.scale, np.cross(axis, self.centre - origin)])
        return np.asarray(twist / np.linalg.norm(twist))


def freedoms_of(
    both: tuple[Array, Array], one_sided: tuple[Array, Array], loose: bool = False
) -> Freedoms:
    """The freedoms that places of contact leave.

    Args:
        both: points and normals (n, 3) of what holds either way, as pins in bores.
        one_sided: points and normals (m, 3) of what can only push.
        loose: whether some normals are those of facets of an unknown surface.
    """
    points = np.concatenate([both[0], one_sided[0]])
    centre = points.mean(axis=0) if len(points) else np.zeros(3)
    scale = float(np.linalg.norm(np.ptp(points, axis=0))) / 2 if len(points) else 1.0
    scale = max(scale, 1e-6)
    equal = _rows(*both, centre, scale)
    pushing = _rows(*one_sided, centre, scale)
    limit = _LOOSELY if loose else _KEPT
    open_ = _null(equal, np.eye(6), limit)
    kept = _null(np.concatenate([equal, pushing]), np.eye(6), limit)
    while len(pushing) and len(open_):
        rows = pushing @ open_.T
        sizes = np.linalg.norm(rows, axis=1)
        stuck = _held_both_ways(rows[sizes > limit])
        if stuck is None:
            break
        smaller = _null(stuck, np.eye(len(open_)), limit) @ open_
        if len(smaller) == len(open_):
            break
        open_ = smaller
    return Freedoms(centre, scale, kept, open_)


def _rows(points: Array, normals: Array, centre: Array, scale: float) -> Array:
    if not len(points):
        return np.zeros((0, 6))
    return np.concatenate([np.cross((points - centre) / scale, normals), normals], axis=1)


def _null(rows: Array, basis: Array, limit: float) -> Array:
    """Of a space with an orthonormal basis (k, n) what goes against no row, (m, n)."""
    if not len(rows):
        return basis
    _, values, directions = np.linalg.svd(rows @ basis.T, full_matrices=True)
    sizes = np.zeros(len(basis))
    sizes[: len(values)] = values / np.sqrt(len(rows))
    return np.asarray(directions[sizes < limit] @ basis)


def _held_both_ways(rows: Array) -> Array | None:
    """Rows of which some positive sum is zero: what they push against, others push back."""
    if len(rows) < 2:
        return None
    unit = rows / np.linalg.norm(rows, axis=1)[:, None]
    matrix = np.concatenate([unit.T, np.ones((1, len(unit)))])
    target = np.zeros(len(matrix))
    target[-1] = 1.0
    weights, residual = nnls(matrix, target)
    return unit[weights > 1e-9] if residual < _BOTH_WAYS else None
