"""Triangle meshes, and the solid properties that follow from them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from mooring.brief import Brief
from mooring.cad.paint import Paint
from mooring.cad.solid import SolidProperties
from mooring.geometry import Array


@dataclass(frozen=True, eq=False, repr=False)
class Mesh(Brief):
    """Triangles over shared vertices.

    Attributes:
        vertices: (n, 3) [m].
        faces: (m, 3) indices into the vertices, counter-clockwise seen from outside.
        paint: the triangles that have a color of their own, if any have.
    """

    vertices: Array
    faces: NDArray[np.int64]
    paint: Paint | None = None

    def scaled(self, factors: Sequence[float]) -> Mesh:
        """The same, larger or smaller along x, y and z; factors below zero mirror it."""
        faces = self.faces[:, ::-1] if np.prod(factors) < 0 else self.faces
        return Mesh(self.vertices * np.array(factors), np.ascontiguousarray(faces), self.paint)

    @cached_property
    def corners(self) -> Array:
        """The corners of every triangle, (m, 3, 3) [m]."""
        return self.vertices[self.faces]

    @cached_property
    def bounds(self) -> Array:
        """Lowest and highest coordinates, (2, 3) [m]."""
        return np.stack([self.vertices.min(axis=0), self.vertices.max(axis=0)])

    @cached_property
    def open_edges(self) -> int:
        """How many edges belong to one triangle only."""
        edges = np.sort(self.faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
        _, times = np.unique(edges[:, 0] * len(self.vertices) + edges[:, 1], return_counts=True)
        return int((times == 1).sum())

    @cached_property
    def disagreeing_edges(self) -> int:
        """How many times an edge joins triangles that disagree on which side is outside."""
        edges = self.faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
        _, times = np.unique(edges[:, 0] * len(self.vertices) + edges[:, 1], return_counts=True)
        return int((times - 1).sum())

    @cached_property
    def neighbours(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The pairs of triangles that share an edge, each once."""
        edges = np.sort(self.faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
        owners = np.repeat(np.arange(len(self.faces)), 3)
        keys = edges[:, 0] * len(self.vertices) + edges[:, 1]
        order = np.argsort(keys, kind="stable")
        same = np.flatnonzero(np.diff(keys[order]) == 0)
        return owners[order[same]], owners[order[same + 1]]

    def between(self, first: NDArray[np.int64], second: NDArray[np.int64]) -> NDArray[np.int64]:
        """The vertices at the ends of the edges that neighbours share, (k, 2)."""
        shared = self.faces[first][:, :, None] == self.faces[second][:, None, :]
        return np.asarray(self.faces[first][shared.any(axis=2)].reshape(-1, 2))

    @property
    def closed(self) -> bool:
        """Whether the triangles enclose a volume without gaps, and agree on its outside."""
        return len(self.faces) > 0 and self.open_edges == 0 and self.disagreeing_edges == 0

    @property
    def inside_out(self) -> bool:
        """Whether it is closed but faces inwards."""
        return self.closed and self.solid.volume < 0

    @cached_property
    def body_of_vertex(self) -> NDArray[np.int32]:
        """For each vertex the number of the connected piece it belongs to, (n,)."""
        from scipy.sparse import coo_array
        from scipy.sparse.csgraph import connected_components

        rows = self.faces[:, [0, 1]].ravel()
        columns = self.faces[:, [1, 2]].ravel()
        size = len(self.vertices)
        graph = coo_array((np.ones(len(rows), dtype=np.int8), (rows, columns)), shape=(size, size))
        return np.asarray(connected_components(graph, directed=False)[1])

    @property
    def bodies(self) -> int:
        """How many pieces are not connected to each other."""
        return len(np.unique(self.body_of_vertex[self.faces[:, 0]]))

    @cached_property
    def solid(self) -> SolidProperties:
        """Volume, centroid and inertia of the enclosed volume.

        Signed tetrahedra from each triangle to the mesh's middle, integrated in closed form
        (Eberly, "Polyhedral Mass Properties (Revisited)", 2002, reaches the same sums).
        """
        middle = self.vertices.mean(axis=0)
        a, b, c = np.moveaxis(self.corners - middle, 1, 0)
        six_volumes = np.einsum("ij,ij->i", a, np.cross(b, c))
        volume = six_volumes.sum() / 6
        if abs(volume) < 1e-18:
            return SolidProperties(0.0, middle, np.zeros((3, 3)))
        total = a + b + c
        first = np.einsum("i,ij->j", six_volumes, total) / 24
        second = sum(np.einsum("i,ij,ik->jk", six_volumes, p, p) for p in (a, b, c, total)) / 120
        centroid = first / volume
        central = second - volume * np.outer(centroid, centroid)
        inertia = np.trace(central) * np.eye(3) - central
        return SolidProperties(float(volume), centroid + middle, inertia)


def weld(
    vertices: Array,
    faces: NDArray[np.int64],
    tolerance: float = 1e-7,
    paint: Paint | None = None,
) -> Mesh:
    """A mesh in which vertices closer than a tolerance [m] are one, and slivers are gone."""
    cells = np.round(vertices / tolerance).astype(np.int64)
    _, first, back = np.unique(cells, axis=0, return_index=True, return_inverse=True)
    faces = back.ravel()[faces]
    distinct = (
        (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])
    )
    return Mesh(vertices[first], faces[distinct], None if paint is None else paint.of(distinct))
