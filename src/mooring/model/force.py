"""Forces with a law: rotors, drag, buoyancy."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from mooring.model.definition.described import Described
from mooring.model.definition.fields import (
    AngularDamping,
    Density,
    Length,
    LinearDamping,
    Point,
)
from mooring.model.definition.markers import FrameName, LinkName, MovingJointName


class RotorThrust(Described):
    """A propeller's thrust along z of a frame, by the square of its joint's speed.

    Attributes:
        name: unique among the robot's forces.
        kind: rotor.
        frame: on the link that is pushed; thrust is along its z.
        joint: that turns; thrust goes with speed * |speed|.
        thrust: per squared speed [N s^2/rad^2].
        moment: of the air or water against the turning, about z of the frame [N m s^2/rad^2].
    """

    name: str = Field(exclude=True)
    kind: Literal["rotor"]
    frame: FrameName
    joint: MovingJointName
    thrust: float = Field(allow_inf_nan=False)
    moment: float = Field(default=0.0, allow_inf_nan=False)


class Drag(Described):
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

    name: str = Field(exclude=True)
    kind: Literal["drag"]
    link: LinkName
    at: Point = (0.0, 0.0, 0.0)
    linear: LinearDamping = Field(default=0.0, ge=0)
    quadratic: float = Field(default=0.0, ge=0, allow_inf_nan=False)
    turning: AngularDamping = Field(default=0.0, ge=0)


class Buoyancy(Described):
    """What water lifts of a link: the weight of what its collision shapes displace.

    Attributes:
        name: unique among the robot's forces.
        kind: buoyancy.
        link: which.
        level: of the water's surface, in the world [m].
        density: of the water [kg/m^3].
        fineness: into how many pieces the longest side of each shape is cut.
    """

    name: str = Field(exclude=True)
    kind: Literal["buoyancy"]
    link: LinkName
    level: Length = 0.0
    density: Density = Field(default=1025.0, gt=0)
    fineness: int = Field(default=12, ge=2, le=60)


Force = RotorThrust | Drag | Buoyancy

FORCE_KINDS: dict[str, type[Force]] = {
    "rotor": RotorThrust,
    "drag": Drag,
    "buoyancy": Buoyancy,
}
