"""Conveyors: surfaces that run."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from pydantic import Field

from mooring.errors import Problem
from mooring.model.definition.described import Described
from mooring.model.definition.fields import Direction, Speed
from mooring.model.definition.markers import LinkName

if TYPE_CHECKING:
    from mooring.model.robot import Robot


class Conveyor(Described):
    """A link whose surface runs, and takes along by friction what lies on it.

    Attributes:
        name: unique among the robot's conveyors.
        link: which.
        direction: the way it runs, in the link.
        speed: at the start; a motion or `Simulation.convey` changes it [m/s].
    """

    name: str = Field(exclude=True)
    link: LinkName
    direction: Direction = (1.0, 0.0, 0.0)
    speed: Speed = 0.0

    def unfit(self, robot: Robot) -> Iterator[Problem]:
        for other in robot.conveyors.values():
            if other.link == self.link and other.name != self.name:
                yield Problem(f"the surface of {self.link!r} is run by {other.name!r}", ("link",))
