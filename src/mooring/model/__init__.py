"""The robot description: links, joints and everything that belongs to them."""

from mooring.model.cable import Cable
from mooring.model.closure import Closure
from mooring.model.conveyor import Conveyor
from mooring.model.coupling import Coupling
from mooring.model.forces import Buoyancy, Drag, Force, RotorThrust
from mooring.model.frame import LinkFrame
from mooring.model.grip import Grip
from mooring.model.inertia import Inertia
from mooring.model.joint import Calibration, Joint, Limits, SoftLimits
from mooring.model.link import Link
from mooring.model.material import Material
from mooring.model.motion import MotionStep
from mooring.model.motor import Motor
from mooring.model.placement import Placement
from mooring.model.robot import Robot
from mooring.model.shapes import (
    Box,
    Capsule,
    Cylinder,
    Hull,
    MeshFile,
    MeshShape,
    PlacedShape,
    Sphere,
)
from mooring.model.spring import Spring

__all__ = [
    "Box",
    "Buoyancy",
    "Cable",
    "Calibration",
    "Capsule",
    "Closure",
    "Conveyor",
    "Coupling",
    "Cylinder",
    "Drag",
    "Force",
    "Grip",
    "Hull",
    "Inertia",
    "Joint",
    "Limits",
    "Link",
    "LinkFrame",
    "Material",
    "MeshFile",
    "MeshShape",
    "MotionStep",
    "Motor",
    "PlacedShape",
    "Placement",
    "Robot",
    "RotorThrust",
    "SoftLimits",
    "Sphere",
    "Spring",
]
