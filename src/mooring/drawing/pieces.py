"""What the renderer draws: meshes at their places."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from weakref import WeakKeyDictionary

import numpy as np

from mooring._native.drawing import corner_normals
from mooring.cad import Mesh
from mooring.drawing.palette import rgb
from mooring.geometry import Array, apply

_CREASE = float(np.cos(np.radians(35)))
_normals: WeakKeyDictionary[Mesh, Array] = WeakKeyDictionary()


class Layer(Enum):
    """How a piece meets the others on the picture."""

    SOLID = "solid"
    """hides what is behind it"""
    GLASS = "glass"
    """lets what is behind it show through"""
    ON_TOP = "on top"
    """drawn over everything"""


@dataclass(frozen=True, eq=False)
class Piece:
    """A mesh at a place (4, 4) with a color "#rrggbb"."""

    mesh: Mesh
    place: Array
    color: str
    layer: Layer = Layer.SOLID

    @property
    def vertices(self) -> Array:
        """In world coordinates, (n, 3) [m]."""
        return apply(self.place, self.mesh.vertices)

    @property
    def colors(self) -> Array:
        """Of the triangles, 0 to 1, (m, 3): the piece's, but where the mesh is painted."""
        paint = self.mesh.paint
        own = np.array([rgb(self.color)])
        if paint is None or self.layer is not Layer.SOLID:
            return np.repeat(own, len(self.mesh.faces), axis=0)
        # Index -1 takes the last.
        return np.concatenate([[rgb(color) for color in paint.colors], own])[paint.of_triangle]

    @property
    def normals(self) -> Array:
        """At the corners of the triangles, world axes, (m, 3, 3)."""
        if self.mesh not in _normals:
            _normals[self.mesh] = smooth_normals(self.mesh)
        return _normals[self.mesh] @ self.place[:3, :3].T


def smooth_normals(mesh: Mesh) -> Array:
    """Normals at the corners of the triangles that stop at creases of 35 deg, (m, 3, 3)."""
    normals = np.empty((len(mesh.faces), 3, 3))
    vertices = np.ascontiguousarray(mesh.vertices, dtype=float)
    faces = np.ascontiguousarray(mesh.faces, dtype=np.int64)
    corner_normals(vertices, faces, _CREASE, normals)
    return normals
