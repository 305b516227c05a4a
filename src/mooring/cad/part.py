"""One placed part of an assembly, and the geometry it may share with its copies."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from fnmatch import fnmatchcase
from functools import cached_property
from typing import TYPE_CHECKING, Literal

import numpy as np

from mooring.brief import Brief
from mooring.cad.mesh import Mesh
from mooring.cad.solid import SolidProperties
from mooring.cad.surfaces import (
    FULL_ENOUGH,
    ConicalFace,
    CylindricalFace,
    PlanarFace,
    SphericalFace,
    Surface,
)
from mooring.geometry import Array, apply, mirror_across

if TYPE_CHECKING:
    from mooring.cad.hierarchy import Boxes


@dataclass(frozen=True, eq=False, repr=False)
class Geometry(Brief):
    """The shape of a part in its own coordinates, held once for all its copies.

    Attributes:
        name: the product's name in the file.
        mesh: its triangles.
        solid: its volume, centroid and inertia; exact where the file holds exact solids.
        source: where `solid` comes from.
        surfaces: its flat, cylindrical, conical and spherical faces.
        bodies: how many separate solids it consists of.
        closed: whether its surface encloses a volume.
        exact_bounds: lowest and highest coordinates (2, 3) [m], where the file holds exact solids.
        solids: each of its exact solids by itself, where there are several.
    """

    name: str
    mesh: Mesh
    solid: SolidProperties
    source: Literal["exact solid", "mesh"]
    surfaces: tuple[Surface, ...] = ()
    bodies: int = 1
    closed: bool = True
    exact_bounds: Array | None = None
    solids: tuple[Geometry, ...] = ()

    @cached_property
    def cylinders(self) -> tuple[CylindricalFace, ...]:
        """Its round faces."""
        return tuple(face for face in self.surfaces if isinstance(face, CylindricalFace))

    @property
    def bounds(self) -> Array:
        """Lowest and highest coordinates, exact where the file holds exact solids, (2, 3) [m]."""
        return self.mesh.bounds if self.exact_bounds is None else self.exact_bounds

    def in_one_color(self) -> tuple[Geometry, str | None]:
        """Without its paint where that is one color all over, and that color."""
        paint = self.mesh.paint
        if paint is None or len(paint.colors) > 1 or (paint.of_triangle < 0).any():
            return self, None
        return replace(self, mesh=replace(self.mesh, paint=None)), paint.colors[0]

    def mirrored(self, axis: str) -> Geometry:
        """The mirror image in the plane through its origin across x, y or z; made once."""
        if axis not in self._mirror_images:
            self._mirror_images[axis] = self._mirrored(axis)
        return self._mirror_images[axis]

    @cached_property
    def _mirror_images(self) -> dict[str, Geometry]:
        return {}

    def _mirrored(self, axis: str) -> Geometry:
        mirror = mirror_across(axis)
        mesh = Mesh(
            apply(mirror, self.mesh.vertices),
            np.ascontiguousarray(self.mesh.faces[:, ::-1]),
            self.mesh.paint,
        )
        bounds = None
        if self.exact_bounds is not None:
            bounds = np.sort(apply(mirror, self.exact_bounds), axis=0)
        return replace(
            self,
            name=f"{self.name}_mirrored" if self.name else "",
            mesh=mesh,
            solid=self.solid.placed(mirror),
            surfaces=tuple(face.placed(mirror) for face in self.surfaces),
            exact_bounds=bounds,
            solids=tuple(solid.mirrored(axis) for solid in self.solids),
        )


@dataclass(frozen=True)
class CadMaterial:
    """A material as the CAD file states it; density in [kg/m^3], None where it states none."""

    name: str
    density: float | None


@dataclass(frozen=True, eq=False, repr=False)
class Part(Brief):
    """A placed part.

    Attributes:
        name: unique in its assembly.
        path: the names from the assembly's root down to this part, joined by "/".
        placement: (4, 4), from the part's own coordinates to the assembly's.
        geometry: the shape, shared between copies.
        color: "#rrggbb", or None where the file gives none.
        material: as the file states it, or None.
    """

    name: str
    path: str
    placement: Array
    geometry: Geometry
    color: str | None = None
    material: CadMaterial | None = None

    def matches(self, pattern: str) -> bool:
        """Whether the name or path is as in a shell pattern: `*` anything, `?` one character."""
        return fnmatchcase(self.name, pattern) or fnmatchcase(self.path, pattern)

    @property
    def mesh(self) -> Mesh:
        """The triangles in the part's own coordinates."""
        return self.geometry.mesh

    @property
    def volume(self) -> float:
        """[m^3]"""
        return self.geometry.solid.volume

    @cached_property
    def vertices(self) -> Array:
        """The mesh's vertices in the assembly's coordinates, (n, 3) [m]."""
        return apply(self.placement, self.mesh.vertices)

    @cached_property
    def ball(self) -> tuple[Array, float]:
        """The middle of its box in the assembly's coordinates, and a radius that covers it [m]."""
        low, high = self.vertices.min(axis=0), self.vertices.max(axis=0)
        return (low + high) / 2, float(np.linalg.norm(high - low)) / 2

    @cached_property
    def corners(self) -> Array:
        """The corners of every triangle in the assembly's coordinates, (m, 3, 3) [m]."""
        return np.ascontiguousarray(self.vertices[self.mesh.faces])

    @cached_property
    def boxes(self) -> Boxes:
        """The triangles in the assembly's coordinates, sorted to be searched."""
        from mooring.cad.hierarchy import Boxes

        return Boxes(self.corners)

    @cached_property
    def solid(self) -> SolidProperties:
        """Volume, centroid and inertia in the assembly's coordinates."""
        return self.geometry.solid.placed(self.placement)

    @cached_property
    def surfaces(self) -> tuple[Surface, ...]:
        """The flat, cylindrical, conical and spherical faces in the assembly's coordinates."""
        return tuple(face.placed(self.placement) for face in self.geometry.surfaces)

    @property
    def planes(self) -> tuple[PlanarFace, ...]:
        """The flat faces in the assembly's coordinates."""
        return tuple(face for face in self.surfaces if isinstance(face, PlanarFace))

    @cached_property
    def cylinders(self) -> tuple[CylindricalFace, ...]:
        """The round faces in the assembly's coordinates."""
        return tuple(face for face in self.surfaces if isinstance(face, CylindricalFace))

    @property
    def cones(self) -> tuple[ConicalFace, ...]:
        """The conical faces in the assembly's coordinates."""
        return tuple(face for face in self.surfaces if isinstance(face, ConicalFace))

    @property
    def spheres(self) -> tuple[SphericalFace, ...]:
        """The spherical faces in the assembly's coordinates."""
        return tuple(face for face in self.surfaces if isinstance(face, SphericalFace))

    @property
    def bores(self) -> tuple[CylindricalFace, ...]:
        """The round holes in the assembly's coordinates."""
        return tuple(c for c in self.cylinders if c.kind == "bore" and c.coverage >= FULL_ENOUGH)

    @property
    def size(self) -> Array:
        """Extents of the part in its own coordinates, (3,) [m]."""
        low, high = self.geometry.bounds
        return np.asarray(high - low)


@dataclass
class NameRegister:
    """Gives each part a name of its own, and remembers which had to be changed."""

    taken: set[str] = field(default_factory=set)
    changed: int = 0

    def unique(self, wanted: str) -> str:
        """`wanted`, or `wanted_2`, `wanted_3`, ... when it is taken."""
        name, number = wanted, 1
        while name in self.taken:
            number += 1
            name = f"{wanted}_{number}"
        self.changed += name != wanted
        self.taken.add(name)
        return name
