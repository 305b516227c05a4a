"""Springs between frames."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Self

import numpy as np
from pydantic import Field

from mooring.errors import Problem
from mooring.model.definition.described import Described
from mooring.model.definition.fields import Length, LinearDamping, LinearStiffness
from mooring.model.definition.markers import FrameName

if TYPE_CHECKING:
    from mooring.model.robot import Robot


class Spring(Described):
    """A spring and damper that pull two frames together along the line between them.

    Attributes:
        name: unique among the robot's springs.
        between: names of two frames on different links.
        stiffness: force per length beyond the rest length [N/m].
        damping: force per speed of growing longer [N s/m].
        rest_length: [m]; what it is at the neutral posture if not given.
    """

    name: str = Field(exclude=True)
    between: tuple[FrameName, FrameName]
    stiffness: LinearStiffness = Field(default=0.0, ge=0)
    damping: LinearDamping = Field(default=0.0, ge=0)
    rest_length: Length | None = Field(default=None, ge=0)

    def unfit(self, robot: Robot) -> Iterator[Problem]:
        first, second = (robot.frames[frame].link for frame in self.between)
        if first == second:
            yield Problem(f"both frames are on the link {first!r}", ("between",))

    def length(self, robot: Robot) -> float:
        """Its length at rest, also where that follows from the geometry [m].

        Raises:
            UnsoundRobotError: the robot is no tree.
        """
        if self.rest_length is not None:
            return self.rest_length
        frames = robot.link_frames()
        ends = []
        for name in self.between:
            frame = robot.frames[name]
            carrier = frames[frame.link]
            ends.append((carrier @ frame.at.in_link(carrier))[:3, 3])
        return float(np.linalg.norm(ends[1] - ends[0]))

    def resolved(self, robot: Robot) -> Self:
        return self.model_copy(update={"rest_length": self.length(robot)})
