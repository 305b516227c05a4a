"""Triangles, exact solid properties and faces of an Open CASCADE shape."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepGProp import BRepGProp
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_FACE, TopAbs_REVERSED, TopAbs_SHAPE, TopAbs_SOLID
from OCP.TopExp import TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Face, TopoDS_Shape

from mooring.cad.mesh import Mesh, weld
from mooring.cad.paint import painted
from mooring.cad.part import Geometry
from mooring.cad.sampling import Sampling
from mooring.cad.solid import SolidProperties
from mooring.cad.step.document import MILLIMETRE
from mooring.cad.step.surfaces import Patches, surfaces_of
from mooring.geometry import Array

_FARTHEST = 1e6
"""[m] from the origin; no machine is there."""


def geometry_of(
    shape: TopoDS_Shape,
    name: str,
    sampling: Sampling,
    color_of: Callable[[TopoDS_Shape], str | None],
) -> Geometry | None:
    """The geometry of one product in metres; None when it has no faces.

    Args:
        shape: Open CASCADE's.
        name: of the product.
        sampling: how fine the triangles are.
        color_of: the color of a solid or a face of the shape, where it has its own.
    """
    faces, colors = _faces(shape, color_of)
    tessellated = _tessellate(shape, faces, colors, sampling)
    if tessellated is None:
        return None
    mesh, patches = tessellated
    solids = list(_explore(shape, TopAbs_SOLID))
    surfaces = surfaces_of(faces, patches, mesh)
    exact = _exact_solid(shape) if solids else None
    if exact is not None:
        bounds = _exact_bounds(shape)
        apart = _apart(shape, solids) if len(solids) > 1 else []
        each = [geometry_of(one, name, sampling, color_of) for one in apart]
        return Geometry(
            name,
            mesh,
            exact,
            "exact solid",
            surfaces,
            len(solids),
            True,
            bounds,
            tuple(one for one in each if one is not None),
        )
    return Geometry(name, mesh, mesh.solid, "mesh", surfaces, mesh.bodies, mesh.closed)


def _apart(shape: TopoDS_Shape, solids: Sequence[TopoDS_Shape]) -> list[TopoDS_Shape]:
    """The solids of a shape, and what it has of faces outside them, as one shape."""
    loose = list(_explore(shape, TopAbs_FACE, TopAbs_SOLID))
    if not loose:
        return list(solids)
    rest, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(rest)
    for face in loose:
        builder.Add(rest, face)
    return [*solids, rest]


def _explore(
    shape: TopoDS_Shape, kind: object, outside: object = TopAbs_SHAPE
) -> Iterator[TopoDS_Shape]:
    """The pieces of a kind, but for those in pieces of another kind."""
    explorer = TopExp_Explorer(shape, kind, outside)
    while explorer.More():
        yield explorer.Current()
        explorer.Next()


def _faces(
    shape: TopoDS_Shape, color_of: Callable[[TopoDS_Shape], str | None]
) -> tuple[list[TopoDS_Face], list[str | None]]:
    """All faces, each with its own color or that of the solid it belongs to."""
    faces: list[TopoDS_Face] = []
    colors: list[str | None] = []
    for solid in _explore(shape, TopAbs_SOLID):
        inside = [TopoDS.Face(face) for face in _explore(solid, TopAbs_FACE)]
        faces += inside
        usual = color_of(solid)
        colors += [color_of(face) or usual for face in inside]
    free = [TopoDS.Face(face) for face in _explore(shape, TopAbs_FACE, TopAbs_SOLID)]
    return faces + free, colors + [color_of(face) for face in free]


def _tessellate(
    shape: TopoDS_Shape,
    faces: list[TopoDS_Face],
    face_colors: Sequence[str | None],
    sampling: Sampling,
) -> tuple[Mesh, Patches] | None:
    """The triangles of all faces, and those of each face."""
    BRepMesh_IncrementalMesh(shape, sampling.length / MILLIMETRE, False, sampling.angle, True)
    vertices: list[tuple[float, float, float]] = []
    triangles: list[tuple[int, int, int]] = []
    colors: list[str | None] = []
    spans: dict[int, tuple[slice, slice]] = {}
    for number, face in enumerate(faces):
        location = TopLoc_Location()
        patch = BRep_Tool.Triangulation_s(face, location)
        if patch is None:
            continue
        move, offset = location.Transformation(), len(vertices) - 1
        for index in range(1, patch.NbNodes() + 1):
            node = patch.Node(index).Transformed(move)
            vertices.append((node.X(), node.Y(), node.Z()))
        flip = face.Orientation() == TopAbs_REVERSED
        for index in range(1, patch.NbTriangles() + 1):
            a, b, c = patch.Triangle(index).Get()
            if flip:
                b, c = c, b
            triangles.append((a + offset, b + offset, c + offset))
        colors += [face_colors[number]] * patch.NbTriangles()
        count = patch.NbTriangles()
        spans[number] = (
            slice(offset + 1, len(vertices)),
            slice(len(triangles) - count, len(triangles)),
        )
    points = np.array(vertices).reshape(-1, 3) * MILLIMETRE
    indices = np.array(triangles, dtype=np.int64).reshape(-1, 3)
    # A damaged file can hold coordinates without end, or none.
    usable = np.asarray((np.abs(points) < _FARTHEST).all(axis=1))
    kept = np.asarray(usable[indices].all(axis=1))
    paint = painted(colors)
    mesh = weld(
        np.where(usable[:, None], points, 0.0),
        indices[kept],
        paint=None if paint is None else paint.of(kept),
    )
    patches = {
        number: Mesh(points[corners], indices[of_face] - corners.start)
        for number, (corners, of_face) in spans.items()
        if of_face.start < of_face.stop and usable[corners].all()
    }
    return (mesh, patches) if len(mesh.faces) else None


def _exact_bounds(shape: TopoDS_Shape) -> Array | None:
    """Lowest and highest coordinates of the true surfaces, (2, 3) [m]; None where they have none.

    Triangles of a round face stay inside it and measure too little.
    """
    box = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, box, False, False)
    if box.IsVoid() or box.IsOpen():
        return None
    corners = (box.CornerMin(), box.CornerMax())
    return np.array([[c.X(), c.Y(), c.Z()] for c in corners]) * MILLIMETRE


def _exact_solid(shape: TopoDS_Shape) -> SolidProperties | None:
    """The integrals over the exact solids; None where a damaged solid gives none."""
    properties = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, properties)
    centre, matrix = properties.CentreOfMass(), properties.MatrixOfInertia()
    inertia = np.array([[matrix.Value(i, j) for j in (1, 2, 3)] for i in (1, 2, 3)])
    if not np.isfinite([properties.Mass(), *inertia.ravel()]).all() or properties.Mass() <= 0:
        return None
    return SolidProperties(
        properties.Mass() * MILLIMETRE**3,
        np.array([centre.X(), centre.Y(), centre.Z()]) * MILLIMETRE,
        inertia * MILLIMETRE**5,
    )
