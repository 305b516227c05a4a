"""What moves a robot: motors, named postures, and motions from one to the next."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from mooring.model.fields import (
    Described,
    Duration,
    JointDamping,
    JointStiffness,
    MomentOfInertia,
    Motion,
    Torque,
)


class Motor(Described):
    """Drives a joint towards a target.

    By position its effort is p * position error + d * velocity error, by velocity d * velocity
    error, by effort what it is told. It is cut off at the joint's effort limit and at what the
    motor itself can do.

    Attributes:
        name: unique among the robot's motors.
        joint: the joint it drives.
        mode: what its target is: position, velocity or effort.
        p: effort per position error [N m/rad or N/m]; for position.
        d: effort per velocity error [N m s/rad or N s/m]; for position and velocity.
        gear_ratio: turns of the motor per turn of the joint, or radians per metre of its way.
        rotor_inertia: of what turns with the motor, before the gear [kg m^2].
        torque: the largest of the motor itself, before the gear [N m].
        at_limit: what it does at its largest effort: hold it, or trip and stay off.
    """

    name: str = Field(exclude=True)
    motion: Motion = Field("rotation", exclude=True)
    joint: str
    mode: Literal["position", "velocity", "effort"] = "position"
    p: JointStiffness | None = Field(None, ge=0)
    d: JointDamping | None = Field(None, ge=0)
    gear_ratio: float = Field(1.0, gt=0)
    rotor_inertia: MomentOfInertia = Field(0.0, ge=0)
    torque: Torque | None = Field(None, gt=0)
    at_limit: Literal["hold", "trip"] = "hold"

    @model_validator(mode="after")
    def _gains_fit_the_mode(self) -> Motor:
        if (self.p is None) == (self.mode == "position"):
            says = "needs p" if self.mode == "position" else "has no p"
            raise ValueError(f"a motor driven by {self.mode} {says}")
        if self.mode == "effort" and self.d is not None:
            raise ValueError("a motor driven by effort has no d")
        if self.mode == "velocity" and not self.d:
            raise ValueError("a motor driven by velocity needs d")
        return self


class MotionStep(Described):
    """One step of a motion: go to a posture, then wait.

    Attributes:
        to: the name of a posture; None stays where the last step went.
        over: how long the way takes [s]; None takes the shortest time that the joints' velocity
            limits allow.
        hold: how long to stay there [s].
    """

    to: str | None = None
    over: Duration | None = Field(None, gt=0)
    hold: Duration = Field(0.0, ge=0)
