"""The robot description: links, joints and everything that belongs to them."""

from mooring.model.drive import MotionStep, Motor
from mooring.model.frame import LinkFrame
from mooring.model.inertia import Inertia
from mooring.model.joint import Closure, Coupling, Joint, Limits
from mooring.model.link import Link
from mooring.model.material import Material
from mooring.model.placement import Placement
from mooring.model.robot import Robot
from mooring.model.shapes import Box, Capsule, Cylinder, Hull, MeshShape, PlacedShape, Sphere

__all__ = [
    "Box",
    "Capsule",
    "Closure",
    "Coupling",
    "Cylinder",
    "Hull",
    "Inertia",
    "Joint",
    "Limits",
    "Link",
    "LinkFrame",
    "Material",
    "MeshShape",
    "MotionStep",
    "Motor",
    "PlacedShape",
    "Placement",
    "Robot",
    "Sphere",
]
