"""Solid modelling for the demo machines: a few readable words over Open CASCADE.

Lengths are millimetres here, as in the CAD files people have; nothing else in Mooring uses them.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
    BRepPrimAPI_MakeSphere,
)
from OCP.GeomAbs import GeomAbs_Line
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Vec
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_EDGE
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Shape

Range = tuple[float, float]
Point = tuple[float, float, float]

DIRECTIONS: dict[str, Point] = {"x": (1, 0, 0), "y": (0, 1, 0), "z": (0, 0, 1)}


def box(x: Range, y: Range, z: Range) -> TopoDS_Shape:
    """A block between three pairs of coordinates."""
    low, high = gp_Pnt(x[0], y[0], z[0]), gp_Pnt(x[1], y[1], z[1])
    return BRepPrimAPI_MakeBox(low, high).Shape()


def cylinder(axis: str, span: Range, diameter: float, centre: Point = (0, 0, 0)) -> TopoDS_Shape:
    """A round bar along `axis`, from span[0] to span[1] measured along it from `centre`."""
    direction = DIRECTIONS[axis]
    start = [c + span[0] * d for c, d in zip(centre, direction, strict=True)]
    frame = gp_Ax2(gp_Pnt(*start), gp_Dir(*direction))
    return BRepPrimAPI_MakeCylinder(frame, diameter / 2, span[1] - span[0]).Shape()


def cone(
    axis: str, span: Range, diameters: tuple[float, float], centre: Point = (0, 0, 0)
) -> TopoDS_Shape:
    """A tapered round bar along `axis`, with the diameters at the two ends of its span."""
    direction = DIRECTIONS[axis]
    start = [c + span[0] * d for c, d in zip(centre, direction, strict=True)]
    frame = gp_Ax2(gp_Pnt(*start), gp_Dir(*direction))
    first, last = (diameter / 2 for diameter in diameters)
    return BRepPrimAPI_MakeCone(frame, first, last, span[1] - span[0]).Shape()


def ball(diameter: float, centre: Point = (0, 0, 0)) -> TopoDS_Shape:
    """A ball about a point."""
    return BRepPrimAPI_MakeSphere(gp_Pnt(*centre), diameter / 2).Shape()


def rounded(body: TopoDS_Shape, radius: float, axis: str) -> TopoDS_Shape:
    """The body with its straight edges along `axis` rounded."""
    fillet = BRepFilletAPI_MakeFillet(body)
    edges = TopExp_Explorer(body, TopAbs_EDGE)
    while edges.More():
        edge = TopoDS.Edge(edges.Current())
        curve = BRepAdaptor_Curve(edge)
        if curve.GetType() == GeomAbs_Line:
            along = curve.Line().Direction()
            if abs(along.Dot(gp_Dir(*DIRECTIONS[axis]))) > 1 - 1e-9:
                fillet.Add(radius, edge)
        edges.Next()
    return fillet.Shape()


def prism(outline: Iterable[Point], along: Point) -> TopoDS_Shape:
    """A flat outline pushed along a vector."""
    polygon = BRepBuilderAPI_MakePolygon()
    for point in outline:
        polygon.Add(gp_Pnt(*point))
    polygon.Close()
    face = BRepBuilderAPI_MakeFace(polygon.Wire()).Face()
    return BRepPrimAPI_MakePrism(face, gp_Vec(*along)).Shape()


def fuse(first: TopoDS_Shape, *others: TopoDS_Shape) -> TopoDS_Shape:
    """One body from several."""
    for other in others:
        first = BRepAlgoAPI_Fuse(first, other).Shape()
    return _tidy(first)


def cut(body: TopoDS_Shape, *tools: TopoDS_Shape) -> TopoDS_Shape:
    """The body without what the tools fill."""
    for tool in tools:
        body = BRepAlgoAPI_Cut(body, tool).Shape()
    return _tidy(body)


def _tidy(shape: TopoDS_Shape) -> TopoDS_Shape:
    """Join the face fragments that boolean operations leave, as a CAD program would."""
    unify = ShapeUpgrade_UnifySameDomain(shape)
    unify.Build()
    return unify.Shape()


def ring_of(count: int, radius: float, start_degrees: float = 0) -> list[tuple[float, float]]:
    """Points evenly spaced on a bolt circle."""
    angles = [math.radians(start_degrees + 360 * k / count) for k in range(count)]
    return [(radius * math.cos(a), radius * math.sin(a)) for a in angles]


def hex_bolt(thread: float, length: float) -> TopoDS_Shape:
    """A hexagon bolt; the head sits on the plane z = 0, the shank points down."""
    across = 1.5 * thread
    corner = across / math.sqrt(3)
    corners = [(x, y, 0.0) for x, y in ring_of(6, corner)]
    head = prism(corners, (0, 0, 0.65 * thread))
    return fuse(head, cylinder("z", (-length, 0), thread))


def washer(thread: float) -> TopoDS_Shape:
    """A flat washer lying on the plane z = 0."""
    thickness = max(1.6, 0.15 * thread)
    ring = cylinder("z", (0, thickness), 2 * thread)
    return cut(ring, cylinder("z", (0, thickness), 1.1 * thread))


def washer_thickness(thread: float) -> float:
    """How much a washer lifts the bolt head that sits on it [mm]."""
    return max(1.6, 0.15 * thread)
