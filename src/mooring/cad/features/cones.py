"""Countersinks and tapers in a mesh."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from mooring.cad.features.patch import Patch
from mooring.cad.surfaces import ConicalFace
from mooring.geometry import Array, frame_along

_LARGEST_RESIDUAL = 0.005
"""Share of the largest radius by which corners may be off the fitted cone."""
_FEWEST_DIRECTIONS = 5
_NARROWEST, _WIDEST = np.radians((1.0, 85.0))


def fit_cone(patch: Patch) -> ConicalFace | None:
    """The cone on which a patch's corners lie; None where they lie on none.

    Every tangent plane of a cone goes through its apex and leans equally against its axis: two
    linear least-squares problems, whose answer is then fitted to the corners.
    """
    mean = patch.weights @ patch.normals
    spread, directions = patch.spread(mean)
    if spread[0] > 1e-3 or spread[1] < 1e-4:
        return None
    if len(np.unique(np.round(patch.normals, 2), axis=0)) < _FEWEST_DIRECTIONS:
        return None
    guess = _tangent_planes(patch, directions[:, 0])
    if guess is None:
        return None
    fitted = _least_squares(patch.points, *guess)
    if fitted is None:
        return None
    apex, axis, half_angle = fitted
    along = (patch.points - apex) @ axis
    low, high = float(along.min()), float(along.max())
    if high - low < 1e-9 or low < -0.01 * high:
        return None
    arms = patch.middles - apex
    cone = ConicalFace(
        kind="taper" if patch.facing(arms - np.outer(arms @ axis, axis)) > 0 else "countersink",
        apex=apex,
        direction=axis,
        half_angle=half_angle,
        span=(max(low, 0.0), high),
        coverage=patch.turn(apex, axis),
    )
    residual = float(cone.distance(patch.points).max())
    if residual > _LARGEST_RESIDUAL * cone.radius(high):
        return None
    return replace(cone, residual=residual)


def _tangent_planes(patch: Patch, axis: Array) -> tuple[Array, Array] | None:
    """The apex, and the axis from it into the cone."""
    # Measured from the middle, so that far from the origin nothing is lost to rounding.
    middle = patch.points.mean(axis=0)
    root = np.sqrt(patch.weights)
    levels = np.einsum("ij,ij->i", patch.normals, patch.middles - middle)
    offset, *_ = np.linalg.lstsq(root[:, None] * patch.normals, root * levels, rcond=None)
    if np.linalg.norm(offset) > 50 * patch.size:
        return None
    apex = middle + offset
    return apex, axis if (middle - apex) @ axis > 0 else -axis


def _least_squares(points: Array, apex: Array, axis: Array) -> tuple[Array, Array, float] | None:
    """The apex, the axis and the half angle [rad]; None where no cone fits."""
    from scipy.optimize import least_squares

    frame = frame_along(axis)
    local = (points - apex) @ frame
    size = float(np.ptp(local, axis=0).max())
    angle = float(np.arctan2(np.linalg.norm(local[:, :2], axis=1).sum(), local[:, 2].sum()))

    def off(p: Array) -> Array:
        # The apex at (p0, p1, p2), the axis leaning by p3, p4, the half angle p5.
        direction = np.array([p[3], p[4], 1.0])
        direction /= np.linalg.norm(direction)
        arm = local - p[:3]
        along = arm @ direction
        radial = np.linalg.norm(arm - np.outer(along, direction), axis=1)
        return np.asarray(radial * np.cos(p[5]) - along * np.sin(p[5]))

    start = np.array([0.0, 0.0, 0.0, 0.0, 0.0, angle])
    if np.abs(off(start)).max() > 0.2 * size:
        return None
    scale = np.array([size, size, size, 0.1, 0.1, 0.1])
    best = least_squares(off, start, x_scale=scale, max_nfev=20)
    half_angle = float(best.x[5])
    if not _NARROWEST < half_angle < _WIDEST:
        return None
    direction = np.array([best.x[3], best.x[4], 1.0])
    return apex + frame @ best.x[:3], frame @ (direction / np.linalg.norm(direction)), half_angle
