"""What moves a robot: motors."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field, field_validator, model_validator

from mooring.errors import Problem
from mooring.model.definition.described import Described
from mooring.model.definition.fields import (
    Current,
    Duration,
    JointDamping,
    JointPosition,
    JointStiffness,
    MomentOfInertia,
    Motion,
    Resistance,
    Torque,
    TorqueConstant,
    TurningSpeed,
    Voltage,
)
from mooring.model.definition.markers import MovingJointName
from mooring.model.definition.variants import VariantName
from mooring.model.joint_types import motion_in
from mooring.model.motor_modes import MOTOR_MODES, MotorMode
from mooring.model.vendor import VendorParts

if TYPE_CHECKING:
    from mooring.model.robot import Robot


class TorqueCurve(Described):
    """A motor's torque against its speed: a straight line, as makers give it.

    Attributes:
        stall_torque: standing still, before the gear [N m].
        no_load_speed: the speed at which nothing is left of it, before the gear [rad/s].
    """

    stall_torque: Torque = Field(gt=0)
    no_load_speed: TurningSpeed = Field(gt=0)


class Winding(Described):
    """The electrical side of a motor.

    Attributes:
        torque_constant: torque per current, before the gear [N m/A].
        resistance: terminal to terminal [ohm].
        voltage: of the supply [V]; it limits torque and speed together.
        largest_current: that the drive gives [A].
    """

    torque_constant: TorqueConstant = Field(gt=0)
    resistance: Resistance = Field(gt=0)
    voltage: Voltage | None = Field(default=None, gt=0)
    largest_current: Current | None = Field(default=None, gt=0)


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
        continuous_torque: what it can give for ever without getting too hot, before the gear [N m].
        curve: what its speed leaves of its torque.
        winding: its electrical side, from which current, heat and, with a voltage, its
            torque-speed curve follow.
        efficiency: of its gear: the share of what goes in that comes out.
        backlash: how far the joint can go while the motor stands [rad or m].
        gear_stiffness: effort per twist of the gear, at the joint [N m/rad or N/m]; rigid if not
            given.
        feedback: which position it goes by where the gear has play or gives: the joint's, or the
            motor's own.
        delay: how late it acts on what it is told and on what it measures [s].
        period: from one time that its drive looks to the next [s]; all the time if not given.
        resolution: the smallest step of position that its drive sees [rad or m]; exact if not
            given.
        feed_forward: gravity adds the effort that holds the machine up where it is.
        at_limit: what it does at its largest effort: hold it, or trip and stay off.
        vendor: what other programs have written of it, which is kept and written back.
    """

    name: str = Field(exclude=True)
    joint: MovingJointName
    motion: Motion = Field(default="rotation", exclude=True, validate_default=True)
    mode: Annotated[str, VariantName(MOTOR_MODES)] = "position"
    p: JointStiffness | None = Field(default=None, ge=0)
    i: JointStiffness | None = Field(default=None, ge=0)
    d: JointDamping | None = Field(default=None, ge=0)
    gear_ratio: float = Field(default=1.0, gt=0, allow_inf_nan=False)
    rotor_inertia: MomentOfInertia = Field(default=0.0, ge=0)
    torque: Torque | None = Field(default=None, gt=0)
    continuous_torque: Torque | None = Field(default=None, gt=0)
    curve: TorqueCurve | None = None
    winding: Winding | None = None
    efficiency: float = Field(default=1.0, gt=0, le=1)
    backlash: JointPosition = Field(default=0.0, ge=0)
    gear_stiffness: JointStiffness | None = Field(default=None, gt=0)
    feedback: Literal["joint", "motor"] = "joint"
    delay: Duration = Field(default=0.0, ge=0, le=1)
    period: Duration = Field(default=0.0, ge=0, le=1)
    resolution: JointPosition = Field(default=0.0, ge=0)
    feed_forward: Literal["none", "gravity"] = "none"
    at_limit: Literal["hold", "trip"] = "hold"
    vendor: VendorParts = ()

    @field_validator("motion", mode="before")
    @classmethod
    def _motion_of_the_joint(cls, value: Motion, info: object) -> Motion:
        return motion_in(info, "joint", value)

    @model_validator(mode="after")
    def _gains_fit_the_mode(self) -> Motor:
        control = self.control
        for gain in ("p", "i", "d"):
            given = getattr(self, gain)
            if given is not None and gain not in control.needs | control.takes:
                raise ValueError(f"a motor driven by {self.mode} has no {gain}")
            if gain in control.needs and (given is None or (gain == "d" and not given)):
                raise ValueError(f"a motor driven by {self.mode} needs {gain}")
        if control.prescribes and self.feed_forward != "none":
            raise ValueError(f"a motor driven by {self.mode} needs no feed_forward")
        return self

    @model_validator(mode="after")
    def _curve_is_whole(self) -> Motor:
        if self.curve is not None and self.winding is not None and self.winding.voltage:
            raise ValueError(
                "the curve follows from the winding and its voltage; leave one of them out"
            )
        if self.gives and not self.rotor_inertia:
            raise ValueError(
                "a gear with backlash or gear_stiffness needs rotor_inertia: what moves behind it"
            )
        if self.control.prescribes:
            for key in ("delay", "period", "resolution", "backlash", "gear_stiffness"):
                if getattr(self, key):
                    raise ValueError(f"a motor driven by {self.mode} moves as commanded; no {key}")
        return self

    @property
    def control(self) -> MotorMode:
        """How it is driven."""
        return MOTOR_MODES[self.mode]

    @property
    def gives(self) -> bool:
        """Whether its gear has play or gives, so that it has a position of its own."""
        return self.backlash > 0 or self.gear_stiffness is not None

    @property
    def ends(self) -> tuple[float, float]:
        """Of its torque-speed curve: torque standing still [N m] and speed without load [rad/s],
        before the gear; inf where there is none."""
        if self.curve is not None:
            return self.curve.stall_torque, self.curve.no_load_speed
        wound = self.winding
        if wound is None or wound.voltage is None:
            return math.inf, math.inf
        # U = R I + k w, and torque = k I.
        k = wound.torque_constant
        return k * wound.voltage / wound.resistance, wound.voltage / k

    @property
    def largest_torque(self) -> float:
        """Before the gear, whatever the speed; inf where nothing limits it [N m]."""
        told = [self.torque, self.ends[0]]
        if self.winding is not None and self.winding.largest_current is not None:
            told.append(self.winding.largest_current * self.winding.torque_constant)
        return min(math.inf if one is None else one for one in told)

    def unfit(self, robot: Robot) -> Iterator[Problem]:
        for other in robot.motors.values():
            if other.joint == self.joint and other.name != self.name:
                text = f"joint {self.joint!r} is already driven by {other.name!r}"
                yield Problem(text, ("joint",))
