"""Couplings: joints that follow others."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import TYPE_CHECKING

from pydantic import Field, field_validator, model_validator

from mooring.errors import Problem
from mooring.model.definition.described import Described, Table
from mooring.model.definition.fields import JointPosition, Motion
from mooring.model.definition.markers import MovingJointName
from mooring.model.joint_types import motion_in

if TYPE_CHECKING:
    from mooring.model.robot import Robot


class Coupling(Described):
    """A joint that follows another: position = ratio * followed position + offset.

    With `also` it follows several: a differential's carrier is half of each of its wheels.

    Attributes:
        joint: the follower.
        follows: the joint that leads.
        ratio: in SI (rad/m or m/rad where one turns and the other slides).
        offset: [rad or m], by the follower's motion.
        also: ratios of one or two more joints that it follows.
    """

    joint: MovingJointName = Field(exclude=True)
    motion: Motion = Field(default="rotation", exclude=True, validate_default=True)
    follows: MovingJointName
    ratio: float = Field(default=1.0, allow_inf_nan=False)
    offset: JointPosition = 0.0
    also: Table[MovingJointName, float] = Field(default_factory=dict)

    @field_validator("motion", mode="before")
    @classmethod
    def _motion_of_the_follower(cls, value: Motion, info: object) -> Motion:
        return motion_in(info, "joint", value)

    @model_validator(mode="after")
    def _leaders_differ(self) -> Coupling:
        if len(self.also) > 2:
            raise ValueError("a joint follows three others at most")
        if self.follows in self.also:
            raise ValueError(f"{self.follows!r} leads already; add both ratios up")
        if not all(map(math.isfinite, self.also.values())):
            raise ValueError("ratios must be finite")
        return self

    @property
    def ratios(self) -> dict[str, float]:
        """Of all that it follows."""
        return {self.follows: self.ratio, **self.also}

    def __str__(self) -> str:
        return " + ".join(f"{ratio:g} x {name}" for name, ratio in self.ratios.items())

    def unfit(self, robot: Robot) -> Iterator[Problem]:
        waiting, seen = list(self.ratios), set[str]()
        while waiting:
            leader = waiting.pop()
            if leader == self.joint:
                yield Problem(f"{self.joint!r} would follow itself", ("follows",))
                return
            if leader in robot.couplings and leader not in seen:
                waiting += robot.couplings[leader].ratios
            seen.add(leader)
