"""What is said of many joints at once, by a pattern of their names."""

from __future__ import annotations

from pydantic import Field

from mooring.model.definition.described import Value
from mooring.model.definition.fields import (
    JointAcceleration,
    JointDamping,
    JointEffort,
    JointInertia,
    JointPosition,
    JointVelocity,
)


class JointValues(Value):
    """Values for all moving joints of a pattern that say nothing themselves.

    Attributes:
        lower: the lower end of their travel [rad or m].
        upper: the upper end [rad or m].
        velocity: largest speed [rad/s or m/s].
        effort: largest torque or force [N m or N].
        acceleration: largest that motions ask for [rad/s^2 or m/s^2].
        damping: effort per velocity [N m s/rad or N s/m].
        friction: dry friction effort [N m or N].
        rotor_inertia: what their drives add to the inertia they move [kg m^2 or kg].
    """

    lower: JointPosition | None = None
    upper: JointPosition | None = None
    velocity: JointVelocity | None = None
    effort: JointEffort | None = None
    acceleration: JointAcceleration | None = Field(default=None, gt=0)
    damping: JointDamping | None = Field(default=None, ge=0)
    friction: JointEffort | None = Field(default=None, ge=0)
    rotor_inertia: JointInertia | None = Field(default=None, ge=0)


OF_THE_JOINT = ("damping", "friction", "rotor_inertia")
"""Fields of the joint itself; the others are those of its limits."""
OF_TRAVEL = ("lower", "upper")
