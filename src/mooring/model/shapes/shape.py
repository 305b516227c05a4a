"""What every shape can tell of itself."""

from __future__ import annotations

import dataclasses
from abc import ABC, abstractmethod
from functools import cache
from pathlib import Path
from typing import Any, ClassVar, NamedTuple, Self

import numpy as np
from pydantic import TypeAdapter, ValidationError

from mooring.cad.mesh import Mesh
from mooring.cad.solid import SolidProperties
from mooring.errors import ModelError, told
from mooring.geometry import Array
from mooring.model.definition.walking import Fields, fields_of
from mooring.units import show

_LARGEST = 1e6
"""[m]"""


class Core(NamedTuple):
    """What is left of a convex shape when its roundness is taken off.

    Attributes:
        points: (n, 3) [m], of which it is the hull; None for a cylinder along z.
        size: a cylinder's radius and half its length [m].
        radius: the roundness [m].
    """

    points: Array | None
    size: tuple[float, float] = (0.0, 0.0)
    radius: float = 0.0


@dataclasses.dataclass(frozen=True)
class MeshFile:
    """The file that a mesh was read from.

    Attributes:
        path: where it was found.
        address: how it was named, such as `package://crane/meshes/boom.stl`; empty where by path.
        scale: what its coordinates were multiplied by, unit and all.
    """

    path: Path
    address: str = ""
    scale: tuple[float, float, float] = (1.0, 1.0, 1.0)


class Shape(Fields, ABC):
    """A body about its own origin.

    A shape is a frozen dataclass: a file in this folder and a name in `SHAPES` or `MESH_SHAPES`, or
    a class that is registered with `mooring.register`.

    Attributes:
        kind: what a document calls it.
        convex: whether its core is exact; of what is not convex, contact takes the convex hull and
            says so.
        mesh: its surface as triangles.
    """

    kind: ClassVar[str]
    convex: ClassVar[bool]
    mesh: Mesh

    @property
    def file(self) -> MeshFile | None:
        """The file that it was read from, where there is one."""
        return None

    @property
    def label(self) -> str:
        """What files and messages call it: its name, where it has one, or its kind."""
        return str(getattr(self, "name", "") or self.kind)

    @property
    def of_triangles(self) -> bool:
        """Whether it is given by triangles, and not by sizes."""
        return False

    @property
    def urdf(self) -> tuple[str, dict[str, Any]] | None:
        """The element of URDF that is this shape, with its sizes; None where there is none."""
        return None

    @property
    def volume(self) -> float:
        """[m^3]"""
        return self.solid.volume

    @property
    @abstractmethod
    def solid(self) -> SolidProperties:
        """Volume, middle and moments, as a solid."""

    @property
    @abstractmethod
    def core(self) -> Core:
        """Its core and its roundness; those of its hull where it is not convex."""

    @property
    @abstractmethod
    def half_thickness(self) -> float:
        """Half its smallest extent [m]."""

    @abstractmethod
    def shrunk(self, clearance: float) -> Shape:
        """The same with every face moved inwards by a distance [m].

        Raises:
            ModelError: nothing would be left.
        """

    def mirrored(self, mirror: Array) -> Shape:
        """Its image in a mirror, (4, 4), about the image of its origin."""
        del mirror
        return self

    def pieces(self) -> list[tuple[Shape, Array]] | None:
        """Shapes known to every format that cover the same space, with their places (4, 4).

        None where there are none, and a format that lacks this shape has to take its mesh.
        """
        return None


class NumericShape(Shape):
    """A shape that documents write as numbers; its fields are its sizes."""

    @classmethod
    def read(cls, written: Any) -> Self:
        """From what stands in a document: the one number or list it has, or several by name.

        Raises:
            ValueError: it is not what it should be.
        """
        hints = fields_of(cls)
        if len(hints) == 1:
            (only,) = hints
            written = {only: written}
        if not isinstance(written, dict) or written.keys() != hints.keys():
            raise ValueError(f"a {cls.kind} is written as {', '.join(hints)}; got {told(written)}")
        made = cls(**written)
        sizes = np.ravel(list(vars(made).values()))
        if max(sizes) > _LARGEST:
            raise ValueError(f"a {cls.kind} of {told(written)} is larger than any machine")
        if min(sizes) <= 0:
            raise ValueError(f"the sizes of a {cls.kind} must be greater than zero, got {written}")
        return made

    @property
    def written(self) -> Any:
        """What stands for it in a document."""
        values = [list(v) if isinstance(v, tuple) else v for v in vars(self).values()]
        return values[0] if len(values) == 1 else dict(zip(vars(self), values, strict=True))

    def _read_sizes(self) -> None:
        """Read the fields with their units, for `__post_init__`."""
        for name, adapter in _adapters(type(self)).items():
            try:
                value = adapter.validate_python(getattr(self, name))
            except ValidationError as error:
                message = error.errors()[0]["msg"].removeprefix("Value error, ")
                raise ModelError(f"a {self.kind}: {name}: {message}") from None
            if not np.isfinite(value).all() or np.min(value) < 0:
                raise ModelError(f"the {name} of a {self.kind} cannot be {getattr(self, name)}")
            object.__setattr__(self, name, value)

    def _with_sizes(self, clearance: float, **sizes: Any) -> Self:
        """Smaller sizes, unless nothing is left."""
        if np.min([np.min(size) for size in sizes.values()]) <= 0:
            raise ModelError(
                f"a clearance of {show(clearance, 'length')} leaves nothing of the {self.kind}"
            )
        return dataclasses.replace(self, **sizes)  # type: ignore[type-var]


@cache
def _adapters(kind: type[Shape]) -> dict[str, TypeAdapter[Any]]:
    """What reads each of a shape's sizes."""
    return {name: TypeAdapter(hint) for name, hint in fields_of(kind).items()}
