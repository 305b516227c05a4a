"""What kinds of joint there are."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal, get_args

from mooring.tree.arrays import FIXED, FLOATING, PRISMATIC, REVOLUTE, Motion

JointType = Literal["fixed", "revolute", "continuous", "prismatic", "floating"]


@dataclass(frozen=True)
class JointKind:
    """One kind of joint.

    Attributes:
        code: what the compiled core calls it.
        motion: whether it turns or slides.
        positions: entries it has in q.
        freedoms: entries it has in v.
        has_axis: whether it turns or slides, with one coordinate that is named like itself.
        ends: whether its travel has ends, which limits tell.
        urdf: what URDF calls it.
    """

    code: int
    motion: Motion
    positions: int
    freedoms: int
    has_axis: bool
    ends: bool
    urdf: str


JOINT_KINDS: dict[JointType, JointKind] = {
    "fixed": JointKind(FIXED, "rotation", 0, 0, False, False, "fixed"),
    "revolute": JointKind(REVOLUTE, "rotation", 1, 1, True, True, "revolute"),
    "continuous": JointKind(REVOLUTE, "rotation", 1, 1, True, False, "continuous"),
    "prismatic": JointKind(PRISMATIC, "translation", 1, 1, True, True, "prismatic"),
    "floating": JointKind(FLOATING, "rotation", 7, 6, False, False, "floating"),
}
assert tuple(JOINT_KINDS) == get_args(JointType)


def motion_of(joint_type: str) -> Motion:
    """Whether a joint of this type slides or turns."""
    kind = next((k for name, k in JOINT_KINDS.items() if name == joint_type), None)
    return "rotation" if kind is None else kind.motion


def motion_in(info: Any, key: str, otherwise: Motion) -> Motion:
    """Whether the joint that another field names slides or turns, where its robot is known."""
    robot = None if info.context is None else info.context.robot
    joint = None if robot is None else robot.joints.get(info.data.get(key))
    return otherwise if joint is None else motion_of(joint.type)
