"""Balls and sockets in a mesh."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from mooring.cad.features.patch import Patch
from mooring.cad.surfaces import SphericalFace

_LARGEST_RESIDUAL = 0.005
"""Share of the radius by which corners may be off the fitted sphere."""
_FEWEST_TRIANGLES = 12


def fit_sphere(patch: Patch) -> SphericalFace | None:
    """The sphere on which a patch's corners lie; None where they lie on none.

    Linear least squares for |p|^2 = 2 p.c + d, which is exact where the corners lie on a sphere.
    """
    spread, _ = patch.spread(patch.weights @ patch.normals)
    if len(patch.corners) < _FEWEST_TRIANGLES or spread[0] < 1e-4:
        return None
    middle = patch.points.mean(axis=0)
    local = patch.points - middle
    design = np.column_stack([2 * local, np.ones(len(local))])
    solution, *_ = np.linalg.lstsq(design, (local**2).sum(axis=1), rcond=None)
    squared = float(solution[3] + solution[:3] @ solution[:3])
    if squared <= 0 or np.sqrt(squared) > 50 * patch.size:
        return None
    radius, centre = float(np.sqrt(squared)), middle + solution[:3]
    sphere = SphericalFace(
        kind="ball" if patch.facing(patch.middles - centre) > 0 else "socket",
        centre=centre,
        radius=radius,
        coverage=min(1.0, patch.area / (4 * np.pi * squared)),
    )
    residual = float(sphere.distance(patch.points).max())
    return replace(sphere, residual=residual) if residual < _LARGEST_RESIDUAL * radius else None
