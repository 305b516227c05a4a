"""Closed triangles as solids that can be cut and joined, by the library manifold3d."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mooring.cad.features import find_surfaces
from mooring.cad.mesh import Mesh
from mooring.cad.paint import Paint
from mooring.cad.part import Geometry
from mooring.errors import InputError, ModelError, needing
from mooring.geometry import Array, frame_along, placement

if TYPE_CHECKING:
    from manifold3d import Manifold

SMALLEST = 1e-6
"""Of the volume of a body; what is less is a sliver that rounding left."""

KERF = 1e-6
"""Of the size of a body; half the width of a cut along a plane."""


def solid_of(mesh: Mesh, name: str) -> Manifold:
    """A mesh as a solid.

    Raises:
        ModelError: it is not closed, so that nobody knows what a cut should close.
        InputError: the library is not installed.
    """
    try:
        import manifold3d
    except ImportError as error:
        raise InputError(needing("cutting", "meshes", error)) from None
    solid = manifold3d.Manifold(
        manifold3d.Mesh64(
            np.ascontiguousarray(mesh.vertices, dtype=np.float64),
            np.ascontiguousarray(mesh.faces, dtype=np.uint64),
            face_id=np.arange(len(mesh.faces), dtype=np.uint64),
        )
    )
    if solid.status() != manifold3d.Error.NoError or solid.volume() <= 0:
        edges = mesh.open_edges
        why = (
            f"{edges} open edges" if edges else "triangles that face in and out, or meet in threes"
        )
        raise ModelError(
            f"{name} is not closed ({why}) and cannot be cut; repair: true turns triangles, gaps "
            "must be closed in the CAD"
        )
    return solid


def pieces_of(solid: Manifold) -> list[Manifold]:
    """What hangs together of a solid, without slivers."""
    least = SMALLEST * solid.volume()
    return [piece for piece in solid.decompose() if piece.volume() > least]


def halves_of(solid: Manifold, normal: Array, offset: float) -> list[list[Manifold]]:
    """What is above a plane and what is below, each as what hangs together.

    Both begin a little off the plane: faces that lie in it would stay as films.
    """
    x, y, z = (float(value) for value in normal)
    low, high = np.reshape(solid.bounding_box(), (2, 3))
    off = KERF * float((high - low).max())
    above, _ = solid.split_by_plane((x, y, z), offset + off)
    _, below = solid.split_by_plane((x, y, z), offset - off)
    return [pieces_of(half) if half.volume() > 0 else [] for half in (above, below)]


def geometry_of(solid: Manifold, source: Geometry, whole: Manifold) -> Geometry:
    """A piece of a geometry as a geometry: paint is kept, faces are fitted to its triangles.

    Args:
        solid: the piece.
        source: what it is a piece of.
        whole: that as a solid.
    """
    found = solid.to_mesh64()
    faces = np.asarray(found.tri_verts, dtype=np.int64)
    vertices = np.asarray(found.vert_properties, dtype=float)[:, :3]
    paint = source.mesh.paint
    if paint is not None:
        # Triangles that a cut made are of other origin, and of the part's color.
        starts = np.asarray(found.run_index, dtype=np.int64) // 3
        origins = np.repeat(np.asarray(found.run_original_id), np.diff(starts))
        own = origins == whole.original_id()
        of = np.where(own, paint.of_triangle[np.where(own, found.face_id, 0)], -1)
        paint = Paint(paint.colors, of.astype(np.int32))
    mesh = Mesh(np.ascontiguousarray(vertices), faces, paint)
    return Geometry(
        source.name, mesh, mesh.solid, "mesh", find_surfaces(mesh), mesh.bodies, mesh.closed
    )


def box(low: Array, high: Array) -> Manifold:
    """A solid box between two corners."""
    from manifold3d import Manifold

    return Manifold.cube(tuple(high - low)).translate(tuple(low))


def cylinder(start: Array, end: Array, radius: float) -> Manifold:
    """A solid cylinder between two points."""
    from manifold3d import Manifold

    length = float(np.linalg.norm(end - start))
    upright = Manifold.cylinder(length, radius, radius, 96)
    return upright.transform(placement(start, frame_along((end - start) / length))[:3])
