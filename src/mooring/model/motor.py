"""What moves a robot: motors."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Literal

from pydantic import Field, field_validator, model_validator

from mooring.errors import Problem
from mooring.model.definition.described import Described
from mooring.model.definition.fields import (
    JointDamping,
    JointStiffness,
    MomentOfInertia,
    Motion,
    Torque,
)
from mooring.model.definition.markers import MovingJointName
from mooring.model.joint_kinds import motion_in

if TYPE_CHECKING:
    from mooring.model.robot import Robot


class Motor(Described):
    """Drives a joint towards a target.

    By position its effort is p * position error + i * its integral + d * velocity error, by
    velocity d * velocity error, by effort what it is told. It is cut off at the joint's effort
    limit and at what the motor itself can do. By motion the joint goes as it is told, whatever
    effort that takes, which is recorded.

    Attributes:
        name: unique among the robot's motors.
        joint: the joint it drives.
        mode: what its target is: position, velocity, effort or motion.
        p: effort per position error [N m/rad or N/m]; for position.
        i: effort per integral of the position error, per second; for position.
        d: effort per velocity error [N m s/rad or N s/m]; for position and velocity.
        gear_ratio: turns of the motor per turn of the joint, or radians per metre of its way.
        rotor_inertia: of what turns with the motor, before the gear [kg m^2].
        torque: the largest of the motor itself, before the gear [N m].
        feed_forward: gravity adds the effort that holds the machine up where it is.
        at_limit: what it does at its largest effort: hold it, or trip and stay off.
    """

    name: str = Field(exclude=True)
    joint: MovingJointName
    motion: Motion = Field(default="rotation", exclude=True, validate_default=True)
    mode: Literal["position", "velocity", "effort", "motion"] = "position"
    p: JointStiffness | None = Field(default=None, ge=0)
    i: JointStiffness | None = Field(default=None, ge=0)
    d: JointDamping | None = Field(default=None, ge=0)
    gear_ratio: float = Field(default=1.0, gt=0, allow_inf_nan=False)
    rotor_inertia: MomentOfInertia = Field(default=0.0, ge=0)
    torque: Torque | None = Field(default=None, gt=0)
    feed_forward: Literal["none", "gravity"] = "none"
    at_limit: Literal["hold", "trip"] = "hold"

    @field_validator("motion", mode="before")
    @classmethod
    def _motion_of_the_joint(cls, value: Motion, info: object) -> Motion:
        return motion_in(info, "joint", value)

    @model_validator(mode="after")
    def _gains_fit_the_mode(self) -> Motor:
        if (self.p is None) == (self.mode == "position"):
            says = "needs p" if self.mode == "position" else "has no p"
            raise ValueError(f"a motor driven by {self.mode} {says}")
        if self.i is not None and self.mode != "position":
            raise ValueError(f"a motor driven by {self.mode} has no i")
        if self.mode in ("effort", "motion") and self.d is not None:
            raise ValueError(f"a motor driven by {self.mode} has no d")
        if self.mode == "motion" and self.feed_forward != "none":
            raise ValueError("a motor driven by motion needs no feed_forward")
        if self.mode == "velocity" and not self.d:
            raise ValueError("a motor driven by velocity needs d")
        return self

    def unfit(self, robot: Robot) -> Iterator[Problem]:
        for other in robot.motors.values():
            if other.joint == self.joint and other.name != self.name:
                text = f"joint {self.joint!r} is already driven by {other.name!r}"
                yield Problem(text, ("joint",))
