"""Motions: what a robot is to do, step by step."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Annotated, Literal

import numpy as np
from pydantic import BeforeValidator, Field, WithJsonSchema, model_validator

from mooring.geometry import Array, placement, rotation_from_rpy, rpy_from_rotation
from mooring.model.fields import Angles, Described, Duration, Lengths
from mooring.units import to_si

Rename = Callable[[str], str]


def _speed(dimension: str) -> tuple[BeforeValidator, WithJsonSchema]:
    return (
        BeforeValidator(lambda value: to_si(value, dimension)),
        WithJsonSchema({"anyOf": [{"type": "number"}, {"type": "string"}]}),
    )


class ReachTarget(Described):
    """Where a frame is to be.

    Attributes:
        xyz: its place [m].
        rpy: fixed-axis roll, pitch, yaw [rad]; any orientation will do if not given.
        on: the link from whose frame both are measured; the world if not given.
    """

    xyz: Lengths
    rpy: Angles | None = None
    on: str | None = None

    def mirrored(self, mirror: Array) -> ReachTarget:
        """The same in a mirror (4, 4)."""
        turn = np.eye(3) if self.rpy is None else rotation_from_rpy(self.rpy)
        place = mirror @ placement(self.xyz, turn) @ mirror
        rpy = None if self.rpy is None else tuple(rpy_from_rotation(place[:3, :3]))
        return self.model_copy(update={"xyz": tuple(place[:3, 3]), "rpy": rpy})


class Drive(Described):
    """Go on wheels.

    Attributes:
        wheels: joints that turn them.
        forward: speed along x of the robot's root [m/s].
        turn: turning speed about its z, positive to the left [rad/s].
        ramp: how long a change of speed takes [s].
    """

    wheels: list[str] = Field(min_length=1)
    forward: Annotated[float, *_speed("velocity")] = 0.0
    turn: Annotated[float, *_speed("angular velocity")] = 0.0
    ramp: Duration = Field(0.5, gt=0)


class MotionStep(Described):
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

    to: str | None = None
    joints: dict[str, float | str] = Field(default_factory=dict)
    reach: dict[str, ReachTarget] = Field(default_factory=dict)
    drive: Drive | None = None
    cycle: list[MotionStep] = Field(default_factory=list)
    times: int | None = Field(None, ge=1)
    attach: tuple[str, str] | None = None
    release: tuple[str, str] | None = None
    over: Duration | None = Field(None, gt=0)
    profile: Literal["quintic", "trapezoid"] = "quintic"
    hold: Duration = Field(0.0, ge=0)

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

    def renamed(self, posture: Rename, joint: Rename, frame: Rename, link: Rename) -> MotionStep:
        """The same for a robot whose items have other names."""

        def pair(names: tuple[str, str] | None) -> tuple[str, str] | None:
            return None if names is None else (link(names[0]), link(names[1]))

        drive = self.drive
        return self.model_copy(
            update={
                "to": None if self.to is None else posture(self.to),
                "joints": {joint(name): value for name, value in self.joints.items()},
                "reach": {
                    frame(name): target.model_copy(
                        update={"on": None if target.on is None else link(target.on)}
                    )
                    for name, target in self.reach.items()
                },
                "drive": drive
                and drive.model_copy(update={"wheels": [joint(name) for name in drive.wheels]}),
                "cycle": [step.renamed(posture, joint, frame, link) for step in self.cycle],
                "attach": pair(self.attach),
                "release": pair(self.release),
            }
        )

    def mirrored(self, mirror: Array) -> MotionStep:
        """The same for a robot in a mirror (4, 4)."""
        return self.model_copy(
            update={
                "reach": {name: target.mirrored(mirror) for name, target in self.reach.items()},
                "cycle": [step.mirrored(mirror) for step in self.cycle],
            }
        )


def all_steps(steps: Sequence[MotionStep]) -> Iterator[MotionStep]:
    """Steps, and those inside cycles."""
    for step in steps:
        yield step
        yield from all_steps(step.cycle)


def named_in(steps: Sequence[MotionStep]) -> Iterator[tuple[str, str]]:
    """What steps refer to: the kind of item, and its name."""
    for step in all_steps(steps):
        if step.to is not None:
            yield "posture", step.to
        yield from (("joint", name) for name in step.joints)
        yield from (("joint", name) for name in (step.drive.wheels if step.drive else ()))
        yield from (("frame", name) for name in step.reach)
        yield from (("link", on) for target in step.reach.values() if (on := target.on))
        yield from (("link", name) for pair in (step.attach, step.release) for name in pair or ())
