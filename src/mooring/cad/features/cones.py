"""Countersinks and tapers in a mesh."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from mooring.cad.features.patch import Patch
from mooring.cad.surfaces import Cone

_LARGEST_RESIDUAL = 0.005
"""Share of the largest radius by which corners may be off the fitted cone."""
_FEWEST_DIRECTIONS = 5
_NARROWEST, _WIDEST = np.radians((1.0, 85.0))


def fit_cone(patch: Patch) -> Cone | None:
    """The cone on which a patch's corners lie; None where they lie on none.

    Every tangent plane of a cone goes through its apex and leans equally against its axis: two
    linear least-squares problems.
    """
    mean = patch.weights @ patch.normals
    spread, directions = patch.spread(mean)
    if spread[0] > 1e-4 or spread[1] < 1e-4:
        return None
    if len(np.unique(np.round(patch.normals, 2), axis=0)) < _FEWEST_DIRECTIONS:
        return None
    # Measured from the middle, so that far from the origin nothing is lost to rounding.
    middle = patch.points.mean(axis=0)
    root = np.sqrt(patch.weights)[:, None]
    levels = np.einsum("ij,ij->i", patch.normals, patch.middles - middle)
    apex, *_ = np.linalg.lstsq(root * patch.normals, root[:, 0] * levels, rcond=None)
    apex = apex + middle
    axis = directions[:, 0]
    if (patch.middles - apex).mean(axis=0) @ axis < 0:
        axis = -axis
    leaning = float(np.arcsin(np.clip(np.abs(mean @ axis), 0, 1)))
    if not _NARROWEST < leaning < _WIDEST:
        return None
    along = (patch.points - apex) @ axis
    low, high = float(along.min()), float(along.max())
    if high - low < 1e-9 or low < -0.01 * high:
        return None
    arms = patch.middles - apex
    radial = arms - np.outer(arms @ axis, axis)
    cone = Cone(
        kind="taper" if patch.facing(radial) > 0 else "countersink",
        apex=apex,
        direction=axis,
        half_angle=_half_angle(patch, apex, axis),
        span=(max(low, 0.0), high),
        coverage=patch.turn(apex, axis),
    )
    residual = float(cone.distance(patch.points).max())
    if residual > _LARGEST_RESIDUAL * cone.radius(high):
        return None
    return replace(cone, residual=residual)


def _half_angle(patch: Patch, apex: np.ndarray, axis: np.ndarray) -> float:
    """From the corners: facets lean a little more than the cone they stand for."""
    arms = patch.points - apex
    along = arms @ axis
    radial = np.linalg.norm(arms - np.outer(along, axis), axis=1)
    return float(np.arctan2(radial.sum(), along.sum()))
