"""What moves a robot: motors, named postures, and motions from one to the next."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from mooring.model.fields import Described, Duration, JointDamping, JointStiffness, Motion


class Motor(Described):
    """Drives a joint towards a target with effort = p * position error + d * velocity error.

    The effort is cut off at the joint's effort limit.

    Attributes:
        name: unique among the robot's motors.
        joint: the joint it drives.
        mode: what its target is.
        p: effort per position error [N m/rad or N/m].
        d: effort per velocity error [N m s/rad or N s/m].
    """

    name: str = Field(exclude=True)
    motion: Motion = Field("rotation", exclude=True)
    joint: str
    mode: Literal["position"] = "position"
    p: JointStiffness = Field(ge=0)
    d: JointDamping = Field(0.0, ge=0)


class MotionStep(Described):
    """One step of a motion: go to a posture, then wait.

    Attributes:
        to: the name of a posture; None stays where the last step went.
        over: how long the way takes [s]; None takes the shortest time that the joints' velocity
            limits allow.
        hold: how long to stay there [s].
    """

    to: str | None = None
    over: Duration | None = Field(None, gt=0)
    hold: Duration = Field(0.0, ge=0)
