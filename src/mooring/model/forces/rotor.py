"""Rotors."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Literal

from pydantic import Field

from mooring.model.definition.markers import FrameName, MovingJointName
from mooring.model.forces.force import Action, Force

if TYPE_CHECKING:
    from mooring.model.robot import Robot
    from mooring.tree import Tree


class RotorThrust(Force):
    """A propeller's thrust along z of a frame, by the square of its joint's speed.

    Attributes:
        name: unique among the robot's forces.
        kind: rotor.
        frame: on the link that is pushed; thrust is along its z.
        joint: that turns; thrust goes with speed * |speed|.
        thrust: per squared speed [N s^2/rad^2].
        moment: of the air or water against the turning, about z of the frame [N m s^2/rad^2].
    """

    law: ClassVar[str] = "rotor"

    kind: Literal["rotor"]
    frame: FrameName
    joint: MovingJointName
    thrust: float = Field(allow_inf_nan=False)
    moment: float = Field(default=0.0, allow_inf_nan=False)

    def action(self, robot: Robot, tree: Tree) -> Action:
        body, frame = tree.frames[self.frame]
        return Action(body, (self.thrust, self.moment), frame, tree.freedom(self.joint))
