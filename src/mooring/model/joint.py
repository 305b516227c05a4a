"""Joints and their limits."""

from __future__ import annotations

from typing import Any, Self

import numpy as np
from pydantic import Field, field_validator, model_validator

from mooring.geometry import Array
from mooring.model.definition.described import Described
from mooring.model.definition.fields import (
    Direction,
    JointAcceleration,
    JointDamping,
    JointEffort,
    JointInertia,
    JointPosition,
    JointStiffness,
    JointVelocity,
    Motion,
)
from mooring.model.definition.markers import EndLinkName
from mooring.model.joint_types import JOINT_TYPES, JointType, TypeOfJoint, motion_of
from mooring.model.placement import Placement, PlacementField, axis_along
from mooring.model.vendor import VendorParts


class _OfAJoint(Described):
    """What is measured as its joint moves; it is told how, which is not the user's to say."""

    motion: Motion = Field(default="rotation", exclude=True)

    @classmethod
    def of_motion(cls, value: Any, motion: Motion) -> Any:
        """What is said, by a joint that turns or slides."""
        if isinstance(value, dict):
            if "motion" in value:
                raise ValueError("unknown key 'motion'")
            return {"motion": motion, **value}
        if isinstance(value, cls) and value.motion != motion:
            if value.model_dump(exclude_defaults=True):
                turns = "turns" if motion == "rotation" else "slides"
                raise ValueError(f"these are not of a joint that {turns}; give them anew, too")
            return cls(motion=motion)
        return value


class SoftLimits(_OfAJoint):
    """Where a controller keeps a joint before it comes to its stops.

    Near them the allowed speed is `position_gain` times the way that is left, and beyond the
    allowed speed the effort falls by `velocity_gain` times the excess.

    Attributes:
        lower, upper: the ends of the travel that is used [rad or m].
        position_gain: speed per way left [1/s].
        velocity_gain: effort per excess of speed [N m s/rad or N s/m].
    """

    lower: JointPosition | None = None
    upper: JointPosition | None = None
    position_gain: float = Field(default=0.0, ge=0, allow_inf_nan=False)
    velocity_gain: JointDamping = Field(default=0.0, ge=0)


class Limits(_OfAJoint):
    """What a joint can do; what is not given is not limited.

    Attributes:
        lower, upper: the ends of its travel [rad or m].
        velocity: largest speed [rad/s or m/s].
        effort: largest torque or force of its drive [N m or N].
        acceleration: largest that motions ask for, from which their times follow
            [rad/s^2 or m/s^2].
        soft: where a controller keeps it before it comes to its stops.
    """

    lower: JointPosition | None = None
    upper: JointPosition | None = None
    velocity: JointVelocity | None = None
    effort: JointEffort | None = None
    acceleration: JointAcceleration | None = Field(default=None, gt=0)
    soft: SoftLimits | None = None

    @field_validator("soft", mode="before")
    @classmethod
    def _soft_limits_know_the_motion(cls, value: Any, info: Any) -> Any:
        return SoftLimits.of_motion(value, info.data.get("motion", "rotation"))


class Calibration(_OfAJoint):
    """Positions at which a reference switch changes; they tell a controller where the joint is.

    Attributes:
        rising: where it goes on as the position grows [rad or m].
        falling: where it goes off as the position grows [rad or m].
    """

    rising: JointPosition | None = None
    falling: JointPosition | None = None


class Joint(Described):
    """A connection that lets a child link move against its parent.

    The child link's frame is the joint's frame when the joint is at zero.

    Attributes:
        name: unique among the robot's joints.
        type: fixed, revolute (turns, limited), continuous (turns without end), prismatic (slides)
            or floating (holds nothing).
        motion: `"rotation"` or `"translation"`; follows from the type.
        parent, child: names of links.
        at: the joint's frame.
        axis: unit vector of positive motion, in the joint's frame.
        limits: of its travel, speed and effort.
        damping: effort per velocity, against the motion [N m s/rad or N s/m].
        friction: dry friction effort, against the motion [N m or N].
        stiffness: of a spring that pulls it to its rest position [N m/rad or N/m].
        rest: where that spring is relaxed [rad or m].
        rotor_inertia: what its drive adds to the inertia that it moves [kg m^2 or kg].
        calibration: of its reference switch.
        vendor: what other programs have written into it, which is kept and written back.
    """

    name: str = Field(exclude=True)
    type: TypeOfJoint
    motion: Motion = Field(default="rotation", exclude=True, validate_default=True)
    parent: EndLinkName
    child: EndLinkName
    at: PlacementField = Field(default_factory=Placement)
    axis: Direction = (0.0, 0.0, 1.0)
    limits: Limits = Field(default_factory=lambda: Limits(motion="rotation"), validate_default=True)
    damping: JointDamping = Field(default=0.0, ge=0)
    friction: JointEffort = Field(default=0.0, ge=0)
    stiffness: JointStiffness = Field(default=0.0, ge=0)
    rest: JointPosition = 0.0
    rotor_inertia: JointInertia = Field(default=0.0, ge=0)
    calibration: Calibration | None = None
    vendor: VendorParts = ()

    @model_validator(mode="before")
    @classmethod
    def _an_axis_of_the_cad_tells_its_direction(cls, value: Any, info: Any) -> Any:
        return axis_along(value, info)

    @field_validator("motion", mode="before")
    @classmethod
    def _motion_follows_type(cls, _: Any, info: Any) -> Motion:
        return motion_of(info.data.get("type", "revolute"))

    @field_validator("limits", mode="before")
    @classmethod
    def _limits_know_the_motion(cls, value: Any, info: Any) -> Any:
        return Limits.of_motion(value, motion_of(info.data.get("type", "revolute")))

    @field_validator("calibration", mode="before")
    @classmethod
    def _calibration_knows_the_motion(cls, value: Any, info: Any) -> Any:
        return Calibration.of_motion(value, motion_of(info.data.get("type", "revolute")))

    @model_validator(mode="after")
    def _what_floats_has_no_axis(self) -> Joint:
        if not self.kind.floats:
            return self
        if self.limits.model_dump(exclude_defaults=True):
            raise ValueError(f"a {self.type} joint has no limits")
        for key in ("damping", "friction", "stiffness", "rotor_inertia"):
            if getattr(self, key):
                raise ValueError(f"a {self.type} joint has no {key}")
        return self

    @property
    def kind(self) -> JointType:
        """Its type: what it does, and how it is drawn and exported."""
        return JOINT_TYPES[self.type]

    @property
    def moves(self) -> bool:
        """Whether the joint lets its child move."""
        return self.kind.freedoms > 0

    @property
    def has_axis(self) -> bool:
        """Whether it turns or slides: it has one coordinate, named like itself."""
        return self.kind.has_axis

    @property
    def endless(self) -> bool:
        """Whether it turns or slides without ends."""
        return self.kind.endless

    @property
    def turns(self) -> bool:
        """Whether it turns about its axis."""
        return self.has_axis and self.motion == "rotation"

    def placed_on(self) -> str:
        return self.parent

    def mirrored(self, mirror: Array) -> Self:
        image = super().mirrored(mirror)
        if self.motion == "translation":
            return image
        # What turns to the left turns to the right in the mirror.
        turned = tuple(float(v) + 0.0 for v in -np.array(image.axis))
        return image.model_copy(update={"axis": turned})
