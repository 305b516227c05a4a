"""Motions: what a robot is to do, step by step."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Annotated, Any, Literal, Self

import numpy as np
from pydantic import (
    AfterValidator,
    BeforeValidator,
    Field,
    ValidationInfo,
    WithJsonSchema,
    model_validator,
)

from mooring.errors import Problem, told
from mooring.geometry import Array, placement, rotation_from_rpy, rpy_from_rotation
from mooring.model.definition.described import Table, Value
from mooring.model.definition.fields import (
    Angle,
    Angles,
    Duration,
    Frequency,
    Lengths,
    Speed,
    TurningSpeed,
)
from mooring.model.definition.markers import (
    ConveyorName,
    DeviceName,
    FrameOrLinkName,
    GripName,
    LinkName,
    MovingJointName,
    PostureName,
)
from mooring.model.definition.problems import EntryError
from mooring.model.posture import Position, read_by_joint, read_positions
from mooring.units import to_si


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


class Wave(Value):
    """A joint that swings for as long as the step says.

    Attributes:
        amplitude: how far, to either side [rad or m].
        frequency: how often a second [Hz].
        phase: where it begins: the sine of it [rad].
    """

    amplitude: Position
    frequency: Frequency = Field(gt=0)
    phase: Angle = 0.0


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


def _speeds(value: Any, info: ValidationInfo) -> Any:
    return read_by_joint(value, info, "velocity")


def _waves(value: Any, info: ValidationInfo) -> Any:
    """Whether an amplitude is an angle or a length, the joint tells."""
    if not isinstance(value, Mapping):
        return value
    waves = {
        joint: {name: getattr(wave, name) for name in wave.model_fields_set}
        if isinstance(wave, Wave)
        else wave
        for joint, wave in value.items()
    }
    said = {
        joint: wave["amplitude"]
        for joint, wave in waves.items()
        if isinstance(wave, Mapping) and "amplitude" in wave
    }
    for joint, amplitude in read_positions(said, info).items():
        waves[joint] = {**waves[joint], "amplitude": amplitude}
    return waves


def _courses(value: Any, info: ValidationInfo) -> Any:
    """Times grow, and the joint tells whether its positions are angles or lengths."""
    if not isinstance(value, Mapping):
        return value
    courses, problems = {}, []
    for joint, course in value.items():
        try:
            times, positions = zip(*map(_instant, _rows(course)), strict=True)
            if times[0] < 0 or any(b <= a for a, b in itertools.pairwise(times)):
                raise ValueError("the times of a course must grow, and not begin before zero")
        except ValueError as error:
            problems.append(Problem(str(error), (joint,)))
            continue
        read = [read_positions({joint: position}, info)[joint] for position in positions]
        courses[joint] = tuple(zip(times, read, strict=True))
    if problems:
        raise EntryError("course", problems)
    return courses


def _rows(course: Any) -> Sequence[Any]:
    if isinstance(course, str) or not isinstance(course, Sequence) or not course:
        raise ValueError("a course is a list of [time, position]")
    return course


def _instant(row: Any) -> tuple[float, Any]:
    if isinstance(row, str) or not isinstance(row, Sequence) or len(row) != 2:
        raise ValueError(f"a course is a list of [time, position], got {told(row)}")
    return to_si(row[0], "time"), row[1]


Course = Annotated[
    tuple[tuple[float, Position], ...],
    WithJsonSchema({"type": "array", "items": {"type": "array", "minItems": 2, "maxItems": 2}}),
]


class MotionStep(Value):
    """One step of a motion: go somewhere, then wait.

    Attributes:
        to: the name of a posture to go to.
        joints: positions to go to by joint, besides the posture; others stay.
        reach: places for frames to go to along straight lines, by frame.
        drive: wheels to drive, for as long as `over` says.
        speeds: joints to turn or slide at constant speed for as long as `over` says, by joint
            [rad/s or m/s]; without `over` for ever.
        ramp: how long a change of such speeds takes [s].
        waves: joints to swing about where they are, by joint, for as long as `over` says; without
            `over` for ever.
        course: by joint, a list of times after the step's beginning [s] and positions [rad or m],
            through which it goes smoothly.
        cycle: steps to go through again and again.
        times: how often; without end if not given.
        grip, let_go: a suction cup or magnet to switch on, or off.
        conveyors: surfaces to run at a speed from then on, by conveyor [m/s].
        signals: inputs of devices to set, by device and name.
        attach, release: two links to hold together as they are, or to let go of each other.
        over: how long the way takes [s]; None takes the shortest time that the joints' velocity
            limits allow.
        profile: how the speed goes: quintic is smooth, trapezoid the fastest within a limit.
        hold: how long to stay there [s].
    """

    to: PostureName | None = None
    joints: Annotated[Table[MovingJointName, Position], BeforeValidator(read_positions)] = Field(
        default_factory=dict
    )
    reach: Table[FrameOrLinkName, ReachTarget] = Field(default_factory=dict)
    drive: Drive | None = None
    speeds: Annotated[Table[MovingJointName, float], BeforeValidator(_speeds)] = Field(
        default_factory=dict
    )
    ramp: Duration = Field(default=0.2, gt=0)
    waves: Annotated[Table[MovingJointName, Wave], BeforeValidator(_waves)] = Field(
        default_factory=dict
    )
    course: Annotated[Table[MovingJointName, Course], BeforeValidator(_courses)] = Field(
        default_factory=dict
    )
    grip: GripName | None = None
    let_go: GripName | None = None
    conveyors: Table[ConveyorName, Speed] = Field(default_factory=dict)
    signals: Table[DeviceName, Table[str, bool]] = Field(default_factory=dict)
    cycle: tuple[MotionStep, ...] = ()
    times: int | None = Field(default=None, ge=1)
    attach: tuple[LinkName, LinkName] | None = None
    release: tuple[LinkName, LinkName] | None = None
    over: Duration | None = Field(default=None, gt=0)
    profile: Literal["quintic", "trapezoid"] = "quintic"
    hold: Duration = Field(default=0.0, ge=0)

    @model_validator(mode="after")
    def _one_thing_at_a_time(self) -> MotionStep:
        goals = [
            self.to is not None or bool(self.joints), bool(self.reach), self.drive is not None,
            bool(self.speeds), bool(self.waves), bool(self.course), bool(self.cycle),
        ]  # fmt: skip
        if sum(goals) > 1:
            raise ValueError(
                "go to a posture or joints, reach, drive, speeds, waves, course, or cycle: one in "
                "a step"
            )
        if self.course and self.over is not None:
            raise ValueError("a course has its own times; it has no over")
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
        raise ValueError(f"expected a list of steps, got {told(steps)}")
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
