"""Shapes at their places on links."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from pydantic import Field, ValidationInfo

from mooring.brief import Brief
from mooring.errors import did_you_mean, told
from mooring.geometry import Array, apply
from mooring.keeping import kept_with
from mooring.model.definition.context import Context
from mooring.model.definition.described import Value
from mooring.model.definition.fields import Color, read_color
from mooring.model.definition.problems import EntryError, define
from mooring.model.definition.variants import Variants
from mooring.model.definition.walking import Fields
from mooring.model.placement import Placement, PlacementField
from mooring.model.shapes.box import Box
from mooring.model.shapes.capsule import Capsule
from mooring.model.shapes.cylinder import Cylinder
from mooring.model.shapes.shape import NumericShape, Shape
from mooring.model.shapes.sphere import Sphere
from mooring.model.shapes.triangles import Hull, MeshShape
from mooring.model.vendor import VendorParts

SHAPES: Variants[type[NumericShape]] = Variants(
    "shape", NumericShape, lambda one: one.kind, Box, Sphere, Cylinder, Capsule
)
"""The shapes that documents write as numbers."""
MESH_SHAPES: dict[str, type[MeshShape | Hull]] = {kind.kind: kind for kind in (MeshShape, Hull)}
"""The shapes that are read from files."""


class Beside(Value):
    """What stands beside a shape in a document.

    Attributes:
        at: where its middle is, on the link or in the CAD.
        name: what it is called.
        color: "#rrggbb", where it is shown.
        opacity: from 0, not to be seen, to 1.
        finish: what its color is called.
        texture: the file of a picture on it, which is kept and not drawn.
        vendor: what other programs have written into it, which is kept and written back.
    """

    at: PlacementField = Field(default_factory=Placement)
    name: str = ""
    color: Color | None = None
    opacity: float = Field(default=1.0, ge=0, le=1)
    finish: str = ""
    texture: str = ""
    vendor: VendorParts = ()

    def placed(self, shape: Shape) -> PlacedShape:
        """A shape with all this."""
        return PlacedShape(
            shape, self.at, self.name, self.color, self.opacity, self.finish, self.texture,
            self.vendor,
        )  # fmt: skip


BESIDE = tuple(Beside.model_fields)


@dataclass(frozen=True, eq=False, repr=False)
class PlacedShape(Fields, Brief):
    """A shape at its place on a link.

    Attributes:
        shape: what it is.
        placement: where it is.
        name: of the part it stands for; empty for shapes that stand for the whole link.
        color: "#rrggbb", or None.
        opacity: from 0, not to be seen, to 1.
        finish: what its color is called.
        texture: the file of a picture on it, which is kept and not drawn.
        vendor: what other programs have written into it.
    """

    shape: Shape
    placement: PlacementField
    name: str = ""
    color: Color | None = None
    opacity: float = 1.0
    finish: str = ""
    texture: str = ""
    vendor: VendorParts = ()

    def __post_init__(self) -> None:
        if self.color is not None:
            try:
                read_color(self.color)
            except ValueError as error:
                raise EntryError("a shape", [(("color",), str(error))]) from None

    def in_link(self, link_frame: Array) -> Array:
        """Its placement in link coordinates, given the link's frame in CAD coordinates."""
        return self.placement.in_link(link_frame)

    def on(self, link_frame: Array) -> PlacedShape:
        """The same, measured from the link."""
        return replace(self, placement=Placement(self.in_link(link_frame)))

    def mirrored(self, mirror: Array) -> PlacedShape:
        """Its image in a mirror, (4, 4)."""
        place = self.placement.mirrored(mirror)
        return replace(self, shape=self.shape.mirrored(mirror), placement=place)


def bare(placed: PlacedShape) -> PlacedShape:
    """A shape without what tells how it looks, as something to collide with."""
    return kept_with(
        placed, "bare",
        lambda: PlacedShape(placed.shape, placed.placement, placed.name, vendor=placed.vendor),
    )  # fmt: skip


def read_shape(entry: Any, info: ValidationInfo | None = None) -> PlacedShape:
    """A shape at its place, from what stands in a document.

    Args:
        entry: such as `{"box": [1, 2, 3], "at": ..., "name": ..., "color": ...}`.
        info: with the context, where there is one.

    Raises:
        EntryError: it is not what it should be.
    """
    context = Context() if info is None or info.context is None else info.context
    return read_shape_with(entry, context)


def read_shape_with(entry: Any, context: Context) -> PlacedShape:
    """The same with a context by itself."""
    if isinstance(entry, PlacedShape):
        return entry
    what = "shape"
    if not isinstance(entry, Mapping):
        raise EntryError(what, [((), f"expected a mapping of keys, got {told(entry)}")])
    kinds = [key for key in entry if key in SHAPES or key in MESH_SHAPES]
    if any(key in MESH_SHAPES for key in kinds):
        return context.mesh(entry)
    for key in entry:
        if key not in kinds and key not in BESIDE:
            hint = did_you_mean(str(key), [*SHAPES, *MESH_SHAPES, *BESIDE])
            raise EntryError(what, [((key,), f"unknown key {key!r}{hint}")])
    if len(kinds) != 1:
        listed = ", ".join([*SHAPES, *MESH_SHAPES])
        raise EntryError(what, [((), f"give one of {listed}, or fit")])
    (kind,) = kinds
    try:
        shape = SHAPES[kind].read(entry[kind])
    except ValueError as error:
        raise EntryError(what, [((kind,), str(error))]) from None
    beside = define(Beside, what, {k: v for k, v in entry.items() if k in BESIDE}, context)
    return beside.placed(shape)


def corners_of(shapes: Iterable[PlacedShape], link_frame: Array) -> Array:
    """All corners of shapes in link coordinates, (n, 3) [m].

    Args:
        shapes: of a link.
        link_frame: the link's frame in CAD coordinates, (4, 4).
    """
    clouds = [apply(s.in_link(link_frame), s.shape.mesh.vertices) for s in shapes]
    return np.concatenate([np.zeros((0, 3)), *clouds])
