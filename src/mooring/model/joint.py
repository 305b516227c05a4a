"""Joints, their limits, and the couplings and closures between them."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field, field_validator

from mooring.model.fields import (
    Described,
    Direction,
    JointDamping,
    JointEffort,
    JointPosition,
    JointVelocity,
    Motion,
)
from mooring.model.placement import Placement, PlacementField

JointType = Literal["fixed", "revolute", "continuous", "prismatic"]


class Limits(Described):
    """What a joint can do; what is not given is not limited.

    Attributes:
        lower, upper: the ends of its travel [rad or m].
        velocity: largest speed [rad/s or m/s].
        effort: largest torque or force of its drive [N m or N].
    """

    motion: Motion = Field("rotation", exclude=True)
    lower: JointPosition | None = None
    upper: JointPosition | None = None
    velocity: JointVelocity | None = None
    effort: JointEffort | None = None


class Joint(Described):
    """A connection that lets a child link move against its parent.

    The child link's frame is the joint's frame when the joint is at zero.

    Attributes:
        name: unique among the robot's joints.
        type: fixed, revolute (turns, limited), continuous (turns without end) or prismatic.
        motion: `"rotation"` or `"translation"`; follows from the type.
        parent, child: names of links.
        at: the joint's frame.
        axis: unit vector of positive motion, in the joint's frame.
        limits: of its travel, speed and effort.
        damping: effort per velocity, against the motion [N m s/rad or N s/m].
        friction: dry friction effort, against the motion [N m or N].
    """

    name: str = Field(exclude=True)
    type: JointType
    motion: Motion = Field("rotation", exclude=True)
    parent: str
    child: str
    at: PlacementField = Field(default_factory=Placement)
    axis: Direction = (0.0, 0.0, 1.0)
    limits: Limits = Field(default_factory=lambda: Limits(motion="rotation"))
    damping: JointDamping = Field(0.0, ge=0)
    friction: JointEffort = Field(0.0, ge=0)

    @field_validator("motion", mode="before")
    @classmethod
    def _motion_follows_type(cls, _: Any, info: Any) -> Motion:
        return motion_of(info.data.get("type", "revolute"))

    @field_validator("limits", mode="before")
    @classmethod
    def _limits_know_the_motion(cls, value: Any, info: Any) -> Any:
        if not isinstance(value, dict):
            return value
        if "motion" in value:
            raise ValueError("unknown key 'motion'")
        return {"motion": motion_of(info.data.get("type", "revolute")), **value}

    model_config = Described.model_config | {"validate_default": True}

    @property
    def moves(self) -> bool:
        """Whether the joint has a coordinate."""
        return self.type != "fixed"


def motion_of(joint_type: str) -> Motion:
    """Whether a joint of this type slides or turns."""
    return "translation" if joint_type == "prismatic" else "rotation"


class Coupling(Described):
    """A joint that follows another: position = ratio * followed position + offset.

    Attributes:
        joint: the follower.
        follows: the joint that leads.
        ratio: in SI (rad/m or m/rad where one turns and the other slides).
        offset: [rad or m], by the follower's motion.
    """

    joint: str = Field(exclude=True)
    motion: Motion = Field("rotation", exclude=True)
    follows: str
    ratio: float = 1.0
    offset: JointPosition = 0.0


ClosureKind = Literal["ball", "hinge", "slide", "weld"]


class Closure(Described):
    """A connection that closes a loop which the tree alone cannot hold.

    At the neutral posture (every joint at zero) both links meet at `at`.

    Attributes:
        kind: what the two links may still do: turn in a point, turn about the axis, slide along
            the axis, or nothing.
        between: names of the two links.
        at: where they meet; `relative_to: link` is the first of the two.
        axis: unit vector in the frame of `at`, for hinge and slide.
    """

    name: str = Field(exclude=True)
    kind: ClosureKind
    between: tuple[str, str]
    at: PlacementField = Field(default_factory=Placement)
    axis: Direction = (0.0, 0.0, 1.0)
