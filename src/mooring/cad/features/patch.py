"""A piece of a mesh that a surface is fitted to."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from mooring.cad.features.regions import Folds, Indices
from mooring.geometry import Array, frame_along

_SECTORS = 72


class Patch:
    """Some triangles of a mesh.

    Attributes:
        corners: (k, 3, 3) [m].
        normals: (k, 3).
        weights: each triangle's share of the area, (k,).
        area: of all [m^2].
        points: the distinct corners, (n, 3) [m].
    """

    def __init__(self, folds: Folds, triangles: Indices) -> None:
        faces = folds.mesh.faces[triangles]
        self.corners = folds.mesh.vertices[faces]
        self.normals = folds.normals[triangles]
        self.area = max(float(folds.areas[triangles].sum()), 1e-300)
        self.weights = folds.areas[triangles] / self.area
        self.points = folds.mesh.vertices[np.unique(faces)]

    @cached_property
    def size(self) -> float:
        """The longest side of its bounding box [m]."""
        return float(np.ptp(self.points, axis=0).max())

    @cached_property
    def middles(self) -> Array:
        """Of the triangles, (k, 3) [m]."""
        return np.asarray(self.corners.mean(axis=1))

    def spread(self, about: Array | None = None) -> tuple[Array, Array]:
        """How the normals spread about the origin or a mean: eigenvalues upwards, directions."""
        normals = self.normals if about is None else self.normals - about
        values, directions = np.linalg.eigh(
            np.einsum("i,ij,ik->jk", self.weights, normals, normals)
        )
        return values, directions

    def facing(self, arms: Array) -> float:
        """Positive when the normals point along some arms (k, 3), on the whole."""
        return float((self.weights * np.einsum("ij,ij->i", arms, self.normals)).sum())

    def turn(self, origin: Array, axis: Array) -> float:
        """The share of a full turn about an axis in which there are triangles."""
        local = (self.corners - origin) @ frame_along(axis)[:, :2]
        angles = np.arctan2(local[..., 1], local[..., 0])
        # Each triangle spans from one of its corners to another, the short way round.
        start = angles[:, :1]
        span = np.mod(angles - start + np.pi, 2 * np.pi) - np.pi
        low = start[:, 0] + span.min(axis=1)
        sectors = np.zeros(_SECTORS, dtype=bool)
        width = 2 * np.pi / _SECTORS
        # A sector is covered when its middle is.
        first = np.ceil(low / width - 0.5 - 1e-9).astype(int)
        last = np.floor((low + np.ptp(span, axis=1)) / width - 0.5 + 1e-9).astype(int)
        for begin, end in zip(first, last, strict=True):
            sectors[np.arange(begin, end + 1) % _SECTORS] = True
        return float(sectors.mean())
