"""Motions: what a robot is to do, step by step."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Annotated, Any, Literal, Self

import numpy as np
from pydantic import AfterValidator, BeforeValidator, Field, ValidationInfo, model_validator

from mooring.geometry import Array, placement, rotation_from_rpy, rpy_from_rotation
from mooring.model.definition.described import Table, Value
from mooring.model.definition.fields import (
    Angles,
    Duration,
    Lengths,
    Speed,
    TurningSpeed,
)
from mooring.model.definition.markers import (
    FrameOrLinkName,
    LinkName,
    MovingJointName,
    PostureName,
)
from mooring.model.posture import Position, read_positions


class ReachTarget(Value):
    """Where a frame is to be.

    Attributes:
        xyz: its place [m].
        rpy: fixed-axis roll, pitch, yaw [rad]; any orientation will do if not given.
        on: the link from whose frame both are measured; the world if not given.
    """

    xyz: Lengths
    rpy: Angles | None = None
    on: LinkName | None = None

    def mirrored(self, mirror: Array) -> Self:
        turn = np.eye(3) if self.rpy is None else rotation_from_rpy(self.rpy)
        place = mirror @ placement(self.xyz, turn) @ mirror
        rpy = None if self.rpy is None else tuple(rpy_from_rotation(place[:3, :3]))
        return self.model_copy(update={"xyz": tuple(place[:3, 3]), "rpy": rpy})


class Drive(Value):
    """Go on wheels.

    Attributes:
        wheels: joints that turn them.
        forward: speed along x of the robot's root [m/s].
        turn: turning speed about its z, positive to the left [rad/s].
        ramp: how long a change of speed takes [s].
    """

    wheels: tuple[MovingJointName, ...] = Field(min_length=1)
    forward: Speed = 0.0
    turn: TurningSpeed = 0.0
    ramp: Duration = Field(default=0.5, gt=0)


def _positions(value: Any, info: ValidationInfo) -> Any:
    return read_positions(value, info)


class MotionStep(Value):
    """One step of a motion: go somewhere, then wait.

    Attributes:
        to: the name of a posture to go to.
        joints: positions to go to by joint, besides the posture; others stay.
        reach: places for frames to go to along straight lines, by frame.
        drive: wheels to drive, for as long as `over` says.
        cycle: steps to go through again and again.
        times: how often; without end if not given.
        attach, release: two links to hold together as they are, or to let go of each other.
        over: how long the way takes [s]; None takes the shortest time that the joints' velocity
            limits allow.
        profile: how the speed goes: quintic is smooth, trapezoid the fastest within a limit.
        hold: how long to stay there [s].
    """

    to: PostureName | None = None
    joints: Annotated[Table[MovingJointName, Position], BeforeValidator(_positions)] = Field(
        default_factory=dict
    )
    reach: Table[FrameOrLinkName, ReachTarget] = Field(default_factory=dict)
    drive: Drive | None = None
    cycle: tuple[MotionStep, ...] = ()
    times: int | None = Field(default=None, ge=1)
    attach: tuple[LinkName, LinkName] | None = None
    release: tuple[LinkName, LinkName] | None = None
    over: Duration | None = Field(default=None, gt=0)
    profile: Literal["quintic", "trapezoid"] = "quintic"
    hold: Duration = Field(default=0.0, ge=0)

    @model_validator(mode="after")
    def _one_thing_at_a_time(self) -> MotionStep:
        goals = [self.to is not None or bool(self.joints), bool(self.reach), self.drive is not None,
                 bool(self.cycle)]  # fmt: skip
        if sum(goals) > 1:
            raise ValueError("go to a posture or joints, reach, drive, or cycle: one in a step")
        if self.times is not None and not self.cycle:
            raise ValueError("times belongs to a cycle")
        if self.drive is not None and self.over is None:
            raise ValueError("drive needs over: how long")
        if self.cycle and self.over is not None:
            raise ValueError("a cycle takes as long as its steps; it has no over")
        return self


def _anew(steps: Any) -> Any:
    """Steps that are made already are read again: now their joints may be known."""
    if isinstance(steps, str | Mapping) or not isinstance(steps, Iterable):
        raise ValueError(f"expected a list of steps, got {steps!r}")
    return [
        {name: getattr(step, name) for name in step.model_fields_set - {"cycle"}}
        | ({"cycle": _anew(step.cycle)} if step.cycle else {})
        if isinstance(step, MotionStep)
        else step
        for step in steps
    ]


def _at_least_one(steps: tuple[MotionStep, ...]) -> tuple[MotionStep, ...]:
    if not steps:
        raise ValueError("a motion needs at least one step")
    return steps


Steps = Annotated[tuple[MotionStep, ...], BeforeValidator(_anew), AfterValidator(_at_least_one)]


def all_steps(steps: Sequence[MotionStep]) -> Iterator[MotionStep]:
    """Steps, and those inside cycles."""
    for step in steps:
        yield step
        yield from all_steps(step.cycle)
