"""The simple surfaces of an Open CASCADE shape, exactly."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.GeomAbs import GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Plane, GeomAbs_Sphere
from OCP.gp import gp_Dir, gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS_Face

from mooring.cad.features import fit_face
from mooring.cad.mesh import Mesh
from mooring.cad.step.document import MILLIMETRE
from mooring.cad.surfaces import ConicalFace, CylindricalFace, PlanarFace, SphericalFace, Surface
from mooring.cad.surfaces.joined import joined_surfaces
from mooring.geometry import Array

Patches = dict[int, Mesh]
"""The triangles of each face, by the face's number."""


def surfaces_of(faces: Iterable[TopoDS_Face], patches: Patches, mesh: Mesh) -> tuple[Surface, ...]:
    """The planes, cylinders, cones and spheres among some faces, in metres.

    Exporters may write a bore as a free-form or revolved surface. Such faces are fitted to the
    corners of their triangles, which lie on the true surface; the residual says how well.
    """
    found = (
        _surface(face, patches[number]) for number, face in enumerate(faces) if number in patches
    )
    return joined_surfaces([surface for surface in found if surface is not None], mesh)


def _surface(face: TopoDS_Face, patch: Mesh) -> Surface | None:
    surface = BRepAdaptor_Surface(face)
    kind = surface.GetType()
    reverse = face.Orientation() == TopAbs_REVERSED
    if kind == GeomAbs_Plane:
        return _plane(face, surface, reverse, patch.vertices)
    if kind == GeomAbs_Cylinder:
        return _cylinder(surface, reverse)
    if kind == GeomAbs_Cone:
        return _cone(surface, reverse)
    if kind == GeomAbs_Sphere:
        return _sphere(face, surface, reverse)
    return fit_face(patch)


def _plane(
    face: TopoDS_Face, surface: BRepAdaptor_Surface, reverse: bool, corners: Array
) -> PlanarFace:
    plane = surface.Plane()
    normal = _vector(plane.Axis().Direction())
    if plane.Position().Direct() == reverse:
        normal = -normal
    centre, area = _centre_and_area(face)
    return PlanarFace(centre, normal, area, float(np.linalg.norm(corners - centre, axis=1).max()))


def _cylinder(surface: BRepAdaptor_Surface, reverse: bool) -> CylindricalFace:
    cylinder = surface.Cylinder()
    low, high = surface.FirstVParameter(), surface.LastVParameter()
    direction = _vector(cylinder.Axis().Direction())
    # The natural normal of a right-handed frame points away from the axis; reversing flips it.
    outward = cylinder.Position().Direct() != reverse
    return CylindricalFace(
        kind="pin" if outward else "bore",
        centre=_point(cylinder.Location()) + direction * (low + high) / 2 * MILLIMETRE,
        direction=direction,
        radius=cylinder.Radius() * MILLIMETRE,
        length=abs(high - low) * MILLIMETRE,
        coverage=_turn(surface),
    )


def _cone(surface: BRepAdaptor_Surface, reverse: bool) -> ConicalFace:
    cone = surface.Cone()
    apex, axis = _point(cone.Apex()), _vector(cone.Axis().Direction())
    half_angle = cone.SemiAngle()
    # The parameter runs along the face's straight lines, from where the reference radius is.
    start = cone.RefRadius() / math.tan(half_angle)
    ends = sorted(
        start + v * math.cos(half_angle)
        for v in (surface.FirstVParameter(), surface.LastVParameter())
    )
    if ends[0] + ends[1] < 0:
        axis, ends = -axis, [-ends[1], -ends[0]]
    outward = cone.Position().Direct() != reverse
    return ConicalFace(
        kind="taper" if outward else "countersink",
        apex=apex,
        direction=axis,
        half_angle=abs(half_angle),
        span=(max(0.0, ends[0]) * MILLIMETRE, ends[1] * MILLIMETRE),
        coverage=_turn(surface),
    )


def _sphere(face: TopoDS_Face, surface: BRepAdaptor_Surface, reverse: bool) -> SphericalFace:
    sphere = surface.Sphere()
    radius = sphere.Radius() * MILLIMETRE
    _, area = _centre_and_area(face)
    outward = sphere.Position().Direct() != reverse
    return SphericalFace(
        kind="ball" if outward else "socket",
        centre=_point(sphere.Location()),
        radius=radius,
        coverage=min(1.0, area / (4 * math.pi * radius**2)),
    )


def _turn(surface: BRepAdaptor_Surface) -> float:
    return float(abs(surface.LastUParameter() - surface.FirstUParameter()) / (2 * math.pi))


def _centre_and_area(face: TopoDS_Face) -> tuple[Array, float]:
    properties = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, properties)
    return _point(properties.CentreOfMass()), abs(properties.Mass()) * MILLIMETRE**2


def _point(point: gp_Pnt) -> Array:
    return np.array([point.X(), point.Y(), point.Z()]) * MILLIMETRE


def _vector(direction: gp_Dir) -> Array:
    return np.array([direction.X(), direction.Y(), direction.Z()])
