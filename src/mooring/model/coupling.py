"""Couplings: joints that follow others."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from pydantic import Field, field_validator

from mooring.errors import Problem
from mooring.model.definition.described import Described
from mooring.model.definition.fields import JointPosition, Motion
from mooring.model.definition.markers import MovingJointName
from mooring.model.joint_kinds import motion_in

if TYPE_CHECKING:
    from mooring.model.robot import Robot


class Coupling(Described):
    """A joint that follows another: position = ratio * followed position + offset.

    Attributes:
        joint: the follower.
        follows: the joint that leads.
        ratio: in SI (rad/m or m/rad where one turns and the other slides).
        offset: [rad or m], by the follower's motion.
    """

    joint: MovingJointName = Field(exclude=True)
    motion: Motion = Field(default="rotation", exclude=True, validate_default=True)
    follows: MovingJointName
    ratio: float = Field(default=1.0, allow_inf_nan=False)
    offset: JointPosition = 0.0

    @field_validator("motion", mode="before")
    @classmethod
    def _motion_of_the_follower(cls, value: Motion, info: object) -> Motion:
        return motion_in(info, "joint", value)

    def unfit(self, robot: Robot) -> Iterator[Problem]:
        leader = self.follows
        seen = {self.joint}
        while leader not in seen and leader in robot.couplings:
            seen.add(leader)
            leader = robot.couplings[leader].follows
        if leader in seen:
            yield Problem(f"{self.joint!r} would follow itself", ("follows",))
