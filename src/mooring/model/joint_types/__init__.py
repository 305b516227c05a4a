"""The types of joint: a file each. A new one is a file here and a name in `JOINT_TYPES`."""

from __future__ import annotations

from typing import Annotated, Any

from mooring.model.definition.variants import VariantName, Variants
from mooring.model.joint_types.continuous import CONTINUOUS
from mooring.model.joint_types.fixed import FIXED
from mooring.model.joint_types.floating import FLOATING
from mooring.model.joint_types.joint_type import JointType
from mooring.model.joint_types.prismatic import PRISMATIC
from mooring.model.joint_types.revolute import REVOLUTE
from mooring.tree.arrays import Motion

__all__ = ["JOINT_TYPES", "JointType", "TypeOfJoint", "motion_in", "motion_of"]

JOINT_TYPES: Variants[JointType] = Variants(
    "joint type", JointType, lambda one: one.name, FIXED, REVOLUTE, CONTINUOUS, PRISMATIC, FLOATING
)

TypeOfJoint = Annotated[str, VariantName(JOINT_TYPES)]
"""A field that names a type of joint."""


def motion_of(joint_type: str) -> Motion:
    """Whether a joint of this type slides or turns."""
    return JOINT_TYPES[joint_type].motion if joint_type in JOINT_TYPES else "rotation"


def motion_in(info: Any, key: str, otherwise: Motion) -> Motion:
    """Whether the joint that another field names slides or turns, where its robot is known."""
    robot = None if info.context is None else info.context.robot
    joint = None if robot is None else robot.joints.get(info.data.get(key))
    return otherwise if joint is None else joint.motion
