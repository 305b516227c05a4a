"""Shapes: what a link looks like and what it collides with."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from mooring.cad.mesh import Mesh
from mooring.geometry import Array
from mooring.model.placement import Placement


@dataclass(frozen=True)
class Box:
    """A block about its middle; `size` are its full extents [m]."""

    kind: ClassVar[str] = "box"
    size: tuple[float, float, float]

    @property
    def volume(self) -> float:
        return float(np.prod(self.size))


@dataclass(frozen=True)
class Cylinder:
    """A round bar about its middle, along z; radius and length [m]."""

    kind: ClassVar[str] = "cylinder"
    radius: float
    length: float

    @property
    def volume(self) -> float:
        return float(np.pi * self.radius**2 * self.length)


@dataclass(frozen=True)
class Capsule:
    """A round bar along z with half-spheres at its ends; `length` without them [m]."""

    kind: ClassVar[str] = "capsule"
    radius: float
    length: float

    @property
    def volume(self) -> float:
        return float(np.pi * self.radius**2 * (self.length + 4 / 3 * self.radius))


@dataclass(frozen=True)
class Sphere:
    """A ball about its centre; radius [m]."""

    kind: ClassVar[str] = "sphere"
    radius: float

    @property
    def volume(self) -> float:
        return float(4 / 3 * np.pi * self.radius**3)


@dataclass(frozen=True, eq=False)
class MeshShape:
    """Triangles; `name` is what a file written for them is called."""

    kind: ClassVar[str] = "mesh"
    mesh: Mesh
    name: str


@dataclass(frozen=True, eq=False)
class Hull:
    """A convex body of triangles; `name` is what a file written for it is called."""

    kind: ClassVar[str] = "hull"
    mesh: Mesh
    name: str

    @property
    def volume(self) -> float:
        return self.mesh.solid.volume


Primitive = Box | Cylinder | Capsule | Sphere
Shape = Primitive | Hull | MeshShape


@dataclass(frozen=True, eq=False)
class PlacedShape:
    """A shape at its place on a link.

    Attributes:
        shape: what it is.
        placement: where it is.
        name: of the part it stands for; empty for shapes that stand for the whole link.
        color: "#rrggbb", or None.
    """

    shape: Shape
    placement: Placement
    name: str = ""
    color: str | None = None

    def in_link(self, link_frame: Array) -> Array:
        """Its placement in link coordinates, given the link's frame in CAD coordinates."""
        return self.placement.in_link(link_frame)
