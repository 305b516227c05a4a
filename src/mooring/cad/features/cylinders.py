"""Bores and pins in a mesh."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from mooring.cad.features.patch import Patch
from mooring.cad.surfaces import CylindricalFace
from mooring.geometry import Array, frame_along

_LARGEST_RESIDUAL = 0.005
"""Share of the radius by which corners may be off the fitted cylinder."""
_FEWEST_DIRECTIONS = 4


def fit_cylinder(patch: Patch) -> CylindricalFace | None:
    """The cylinder on which a patch's corners lie; None where they lie on none.

    The axis is the direction that the normals avoid; then axis and radius are fitted to the corners
    by least squares.
    """
    spread, directions = patch.spread()
    # A plane's normals leave two directions empty, a ball's or cone's none.
    if spread[0] > 1e-3 or spread[1] < 1e-3:
        return None
    seen = np.unique(np.round(patch.normals @ directions[:, 1:], 2), axis=0)
    if len(seen) < _FEWEST_DIRECTIONS:
        return None
    fitted = _least_squares(patch.points, directions[:, 0])
    if fitted is None:
        return None
    origin, axis, radius = fitted
    arms = patch.middles - origin
    heights = (patch.points - origin) @ axis
    low, high = float(heights.min()), float(heights.max())
    cylinder = CylindricalFace(
        kind="pin" if patch.facing(arms - np.outer(arms @ axis, axis)) > 0 else "bore",
        centre=origin + axis * (low + high) / 2,
        direction=axis,
        radius=radius,
        length=high - low,
        coverage=patch.turn(origin, axis),
    )
    return replace(cylinder, residual=float(cylinder.distance(patch.points).max()))


def _least_squares(points: Array, guess: Array) -> tuple[Array, Array, float] | None:
    """A point on the axis, its direction and the radius; None where no cylinder fits."""
    from scipy.optimize import least_squares

    middle = points.mean(axis=0)
    frame = frame_along(guess)
    local = (points - middle) @ frame
    # Kasa's circle: x^2 + y^2 = 2 a x + 2 b y + c.
    design = np.column_stack([2 * local[:, :2], np.ones(len(local))])
    (a, b, c), *_ = np.linalg.lstsq(design, (local[:, :2] ** 2).sum(axis=1), rcond=None)
    squared = c + a * a + b * b
    size = float(np.ptp(local, axis=0).max())
    if squared <= 0 or np.sqrt(squared) > 50 * size:
        return None

    def off(p: Array) -> Array:
        # The axis through (p0, p1, 0) leaning by p2, p3.
        direction = np.array([p[2], p[3], 1.0])
        direction /= np.linalg.norm(direction)
        arm = local - np.array([p[0], p[1], 0.0])
        radial = arm - np.outer(arm @ direction, direction)
        return np.asarray(np.linalg.norm(radial, axis=1) - p[4])

    start = np.array([a, b, 0.0, 0.0, np.sqrt(squared)])
    # Far from a cylinder no refining helps: most patches end here.
    if np.abs(off(start)).max() > 0.1 * start[4]:
        return None
    best = least_squares(off, start, x_scale=np.array([size, size, 0.1, 0.1, size]), max_nfev=12)
    radius = float(best.x[4])
    if radius <= 0 or np.abs(best.fun).max() > _LARGEST_RESIDUAL * radius:
        return None
    direction = np.array([best.x[2], best.x[3], 1.0])
    axis = frame @ (direction / np.linalg.norm(direction))
    return middle + frame @ np.array([best.x[0], best.x[1], 0.0]), axis, radius
