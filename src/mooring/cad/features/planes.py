"""Flat faces of a mesh."""

from __future__ import annotations

import numpy as np

from mooring.cad.features.patch import Patch
from mooring.cad.surfaces import PlanarFace

_FLAT = float(np.cos(np.radians(0.5)))


def fit_plane(patch: Patch) -> PlanarFace | None:
    """The plane of a patch whose normals all agree; None for any other patch."""
    mean = patch.weights @ patch.normals
    length = float(np.linalg.norm(mean))
    if length == 0:
        return None
    normal = mean / length
    if (patch.normals @ normal).min() < _FLAT:
        return None
    centre = patch.weights @ patch.middles
    reach = float(np.linalg.norm(patch.points - centre, axis=1).max())
    plane = PlanarFace(centre, normal, patch.area, reach)
    return PlanarFace(centre, normal, patch.area, reach, float(plane.distance(patch.points).max()))
