"""Triangles, exact solid properties and round faces of an Open CASCADE shape."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.GeomAbs import GeomAbs_Cylinder
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_FACE, TopAbs_REVERSED, TopAbs_SOLID
from OCP.TopExp import TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape

from mooring.cad.cylinder import Cylinder, join_faces
from mooring.cad.mesh import Mesh, weld
from mooring.cad.part import Geometry
from mooring.cad.sampling import Sampling
from mooring.cad.solid import SolidProperties
from mooring.cad.step.document import MILLIMETRE

_FARTHEST = 1e6
"""[m] from the origin; no machine is there."""


def geometry_of(shape: TopoDS_Shape, name: str, sampling: Sampling) -> Geometry | None:
    """The geometry of one product in metres; None when it has no faces."""
    mesh = _tessellate(shape, sampling)
    if mesh is None:
        return None
    solids = sum(1 for _ in _explore(shape, TopAbs_SOLID))
    cylinders = tuple(join_faces([c for c in map(_cylinder, _faces(shape)) if c is not None]))
    exact = _exact_solid(shape) if solids else None
    if exact is not None:
        return Geometry(name, mesh, exact, "exact solid", cylinders, solids, True)
    return Geometry(name, mesh, mesh.solid, "mesh", cylinders, mesh.bodies, mesh.closed)


def _explore(shape: TopoDS_Shape, kind: object) -> Iterator[TopoDS_Shape]:
    explorer = TopExp_Explorer(shape, kind)
    while explorer.More():
        yield explorer.Current()
        explorer.Next()


def _faces(shape: TopoDS_Shape) -> Iterator[TopoDS_Face]:
    return (TopoDS.Face(face) for face in _explore(shape, TopAbs_FACE))


def _tessellate(shape: TopoDS_Shape, sampling: Sampling) -> Mesh | None:
    BRepMesh_IncrementalMesh(shape, sampling.length / MILLIMETRE, False, sampling.angle, True)
    vertices: list[tuple[float, float, float]] = []
    triangles: list[tuple[int, int, int]] = []
    for face in _faces(shape):
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
    points = np.array(vertices).reshape(-1, 3) * MILLIMETRE
    faces = np.array(triangles, dtype=np.int64).reshape(-1, 3)
    # A damaged file can hold coordinates without end, or none.
    usable = np.asarray((np.abs(points) < _FARTHEST).all(axis=1))
    faces = faces[usable[faces].all(axis=1)]
    mesh = weld(np.where(usable[:, None], points, 0.0), faces)
    return mesh if len(mesh.faces) else None


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


def _cylinder(face: TopoDS_Face) -> Cylinder | None:
    surface = BRepAdaptor_Surface(face)
    if surface.GetType() != GeomAbs_Cylinder:
        return None
    cylinder = surface.Cylinder()
    low, high = surface.FirstVParameter(), surface.LastVParameter()
    turn = abs(surface.LastUParameter() - surface.FirstUParameter()) / (2 * math.pi)
    place, along = cylinder.Axis().Location(), cylinder.Axis().Direction()
    direction = np.array([along.X(), along.Y(), along.Z()])
    origin = np.array([place.X(), place.Y(), place.Z()]) * MILLIMETRE
    # The natural normal of a right-handed frame points away from the axis; reversing flips it.
    outward = cylinder.Position().Direct() != (face.Orientation() == TopAbs_REVERSED)
    return Cylinder(
        kind="pin" if outward else "bore",
        centre=origin + direction * (low + high) / 2 * MILLIMETRE,
        direction=direction,
        radius=cylinder.Radius() * MILLIMETRE,
        length=abs(high - low) * MILLIMETRE,
        coverage=turn,
    )
