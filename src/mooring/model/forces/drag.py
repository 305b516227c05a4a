"""Drag."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Literal

from pydantic import Field

from mooring.geometry import placement
from mooring.model.definition.fields import AngularDamping, LinearDamping, Point
from mooring.model.definition.markers import LinkName
from mooring.model.forces.force import Action, Force

if TYPE_CHECKING:
    from mooring.model.robot import Robot
    from mooring.tree import Tree


class Drag(Force):
    """What a medium at rest does against a link's motion.

    Attributes:
        name: unique among the robot's forces.
        kind: drag.
        link: which.
        at: where it acts [m], in the link.
        linear: force per speed [N s/m].
        quadratic: force per squared speed: half density times drag coefficient times area [kg/m].
        turning: moment per turning speed [N m s/rad].
    """

    law: ClassVar[str] = "drag"

    kind: Literal["drag"]
    link: LinkName
    at: Point = (0.0, 0.0, 0.0)
    linear: LinearDamping = Field(default=0.0, ge=0)
    quadratic: float = Field(default=0.0, ge=0, allow_inf_nan=False)
    turning: AngularDamping = Field(default=0.0, ge=0)

    def action(self, robot: Robot, tree: Tree) -> Action:
        numbers = (self.linear, self.quadratic, self.turning)
        return Action(tree.link(self.link), numbers, placement(self.at))
