"""Cables: ropes, chains and belts."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from pydantic import Field, model_validator

from mooring.errors import Problem
from mooring.model.definition.described import Described, Table, needs
from mooring.model.definition.fields import Length, LinearDamping, LinearStiffness
from mooring.model.definition.markers import FrameName, MovingJointName

if TYPE_CHECKING:
    from mooring.model.robot import Robot


class Cable(Described):
    """A rope, chain or belt: it pulls when its way is longer than it is, and never pushes.

    Its way goes straight from frame to frame, and through those between without friction; what
    joints wind up or let out counts as well.

    Attributes:
        name: unique among the robot's cables.
        through: names of the frames that it passes.
        winds: by joint, the length of way that it takes per turn or way of the joint: the radius
            of a drum or pulley; less than zero where a positive turn lets out.
        length: [m]; what its way is at the neutral posture if not given.
        stiffness: force per length; it does not give if there is none [N/m].
        damping: force per speed, where it gives [N s/m].
        both_ways: for a belt under tension: it carries effort in both senses.
    """

    name: str = Field(exclude=True)
    through: tuple[FrameName, ...] = ()
    winds: Table[MovingJointName, Length] = Field(default_factory=dict)
    length: Length | None = Field(default=None)
    stiffness: LinearStiffness | None = Field(default=None, gt=0)
    damping: LinearDamping = Field(default=0.0, ge=0)
    both_ways: bool = False

    @model_validator(mode="after")
    def _ties_something(self) -> Cable:
        if len(self.through) == 1 or not (self.through or len(self.winds) > 1):
            raise ValueError("a cable goes through two frames or more, or winds on two joints")
        needs(self, damping="stiffness")
        return self

    def unfit(self, robot: Robot) -> Iterator[Problem]:
        links = {robot.frames[frame].link for frame in self.through}
        if len(links) == 1 and not self.winds:
            yield Problem(f"all its frames are on the link {links.pop()!r}", ("through",))
