"""Shapes and meshes as parts: what works around the parts of a CAD works around these, too."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache

import numpy as np

from mooring.cad import Part
from mooring.cad.part import Geometry
from mooring.geometry import Array
from mooring.keeping import kept_with
from mooring.model.shapes.placed import PlacedShape
from mooring.model.shapes.shape import Shape


def as_parts(shapes: Iterable[PlacedShape], link_frame: Array | None = None) -> tuple[Part, ...]:
    """Shapes of a link as parts, placed in the link's coordinates.

    Args:
        shapes: on the link, or in the CAD.
        link_frame: the link's frame in CAD coordinates, (4, 4), where one is in the CAD.
    """
    return tuple(
        _part(one if one.placement.relative_to == "link" or link_frame is None
              else one.on(link_frame))
        for one in shapes
        if len(one.shape.mesh.faces)
    )  # fmt: skip


def _part(placed: PlacedShape) -> Part:
    if placed.shape.of_triangles:
        return kept_with(placed.shape.mesh, placed, lambda: _made(placed))
    return _plain(placed)


@lru_cache(maxsize=2**16)
def _plain(placed: PlacedShape) -> Part:
    return _made(placed)


def _made(placed: PlacedShape) -> Part:
    name = placed.name or placed.shape.label
    place = np.array(placed.placement.matrix)
    return Part(name, name, place, _geometry(placed.shape), placed.color)


def _geometry(shape: Shape) -> Geometry:
    return kept_with(shape.mesh, ("geometry", shape), lambda: _shaped(shape))


def _shaped(shape: Shape) -> Geometry:
    mesh = shape.mesh
    exact = not shape.of_triangles
    name = getattr(shape, "name", "")
    return Geometry(
        name, mesh, shape.solid, "exact solid" if exact else "mesh", closed=exact or mesh.closed
    )
