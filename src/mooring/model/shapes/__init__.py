"""Shapes: what a link looks like and what it collides with; a file a kind."""

from mooring.model.shapes.box import Box
from mooring.model.shapes.capsule import Capsule
from mooring.model.shapes.cylinder import Cylinder
from mooring.model.shapes.placed import SHAPES, PlacedShape, corners_of
from mooring.model.shapes.shape import Core, MeshFile, NumericShape, Shape
from mooring.model.shapes.sphere import Sphere
from mooring.model.shapes.triangles import Hull, MeshShape, convex

__all__ = [
    "SHAPES",
    "Box",
    "Capsule",
    "Core",
    "Cylinder",
    "Hull",
    "MeshFile",
    "MeshShape",
    "NumericShape",
    "PlacedShape",
    "Shape",
    "Sphere",
    "convex",
    "corners_of",
]
