"""Smooth regions of a mesh: what a person would call one face."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from mooring.cad.mesh import Mesh
from mooring.cad.spreading import normals_and_areas

Indices = NDArray[np.int64]


class Folds:
    """How the triangles of a mesh lean against their neighbours.

    Attributes:
        mesh: whose.
        normals: unit normals of the triangles, (m, 3).
        areas: (m,) [m^2].
    """

    def __init__(self, mesh: Mesh) -> None:
        self.mesh = mesh
        self.normals, self.areas = normals_and_areas(mesh)
        self._first, self._second = mesh.neighbours
        self._cosines = np.einsum("ij,ij->i", self.normals[self._first], self.normals[self._second])

    def regions(self, crease: float, among: Indices | None = None) -> list[Indices]:
        """Triangles grouped by edges across which the surface folds less than an angle [rad].

        Args:
            crease: the angle.
            among: the triangles to group; all if not given.
        """
        count = len(self.mesh.faces)
        joined = self._cosines > np.cos(crease)
        if among is not None:
            inside = np.zeros(count, dtype=bool)
            inside[among] = True
            joined = joined & inside[self._first] & inside[self._second]
        ones = np.ones(int(joined.sum()), dtype=np.int8)
        graph = coo_array((ones, (self._first[joined], self._second[joined])), shape=(count, count))
        _, labels = connected_components(graph, directed=False)
        chosen = np.arange(count) if among is None else among
        order = chosen[np.argsort(labels[chosen], kind="stable")]
        borders = np.flatnonzero(np.diff(labels[order])) + 1
        return [np.asarray(region) for region in np.split(order, borders)]
