"""Shapes made of triangles."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar, Self

import numpy as np

from mooring.cad.mesh import Mesh
from mooring.cad.solid import SolidProperties
from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.model.shapes.shape import Core, MeshFile, Shape


@dataclass(frozen=True, eq=False)
class TriangleShape(Shape):
    mesh: Mesh
    name: str

    @property
    def of_triangles(self) -> bool:
        return True

    @property
    def solid(self) -> SolidProperties:
        return self.mesh.solid

    @property
    def half_thickness(self) -> float:
        return float(np.ptp(self.mesh.vertices, axis=0).min()) / 2

    def mirrored(self, mirror: Array) -> Self:
        # Turned round, so that faces still look outwards.
        faces = np.ascontiguousarray(self.mesh.faces[:, ::-1])
        vertices = self.mesh.vertices @ mirror[:3, :3].T
        return replace(self, mesh=replace(self.mesh, vertices=vertices, faces=faces))

    def __eq__(self, other: object) -> bool:
        if type(self) is not type(other):
            return NotImplemented
        one, two = self.mesh, other.mesh
        return one is two or (
            np.array_equal(one.vertices, two.vertices) and np.array_equal(one.faces, two.faces)
        )

    def __hash__(self) -> int:
        return id(self.mesh)


@dataclass(frozen=True, eq=False)
class MeshShape(TriangleShape):
    """Triangles; `name` is what a file written for them is called, `file` where they are from."""

    kind: ClassVar[str] = "mesh"
    convex: ClassVar[bool] = False
    file: MeshFile | None = None

    @property
    def core(self) -> Core:
        return Core(_hull_points(self.mesh.vertices))

    def mirrored(self, mirror: Array) -> MeshShape:
        return replace(super().mirrored(mirror), file=None)

    def shrunk(self, clearance: float) -> MeshShape:
        del clearance
        raise ModelError("a mesh cannot be shrunk; use hull or pieces with a clearance")


@dataclass(frozen=True, eq=False)
class Hull(TriangleShape):
    """A convex body of triangles; `name` is what a file written for it is called."""

    kind: ClassVar[str] = "hull"
    convex: ClassVar[bool] = True

    @property
    def core(self) -> Core:
        return Core(np.ascontiguousarray(self.mesh.vertices, dtype=float))

    def shrunk(self, clearance: float) -> Hull:
        from mooring.model.shapes.hulls import shrunk_hull

        return Hull(shrunk_hull(self.mesh, clearance), self.name)


def convex(shape: Shape) -> Shape:
    """The shape, or its hull where it is made of triangles; itself where those are flat."""
    if not shape.of_triangles:
        return shape
    from mooring.model.shapes.hulls import hull_mesh

    try:
        return Hull(hull_mesh(shape.mesh.vertices), getattr(shape, "name", ""))
    except ModelError:
        return shape


def _hull_points(points: Array) -> Array:
    from mooring.model.shapes.hulls import hull_mesh

    try:
        return hull_mesh(points).vertices
    except ModelError:
        # Flat: its points are as good.
        return np.ascontiguousarray(points, dtype=float)
