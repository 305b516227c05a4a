"""What ties joints and links together besides the tree: couplings, closures, springs."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from mooring.model.fields import (
    Described,
    Direction,
    JointPosition,
    Length,
    LinearDamping,
    LinearStiffness,
    Motion,
)
from mooring.model.placement import Placement, PlacementField


class Coupling(Described):
    """A joint that follows another: position = ratio * followed position + offset.

    Attributes:
        joint: the follower.
        follows: the joint that leads.
        ratio: in SI (rad/m or m/rad where one turns and the other slides).
        offset: [rad or m], by the follower's motion.
    """

    joint: str = Field(exclude=True)
    motion: Motion = Field("rotation", exclude=True)
    follows: str
    ratio: float = 1.0
    offset: JointPosition = 0.0


ClosureKind = Literal["ball", "hinge", "slide", "weld"]


class Closure(Described):
    """A connection that closes a loop which the tree alone cannot hold.

    At the neutral posture (every joint at zero) both links meet at `at`.

    Attributes:
        kind: what the two links may still do: turn in a point, turn about the axis, slide along
            the axis, or nothing.
        between: names of the two links.
        at: where they meet; `relative_to: link` is the first of the two.
        axis: unit vector in the frame of `at`, for hinge and slide.
    """

    name: str = Field(exclude=True)
    kind: ClosureKind
    between: tuple[str, str]
    at: PlacementField = Field(default_factory=Placement)
    axis: Direction = (0.0, 0.0, 1.0)


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
    between: tuple[str, str]
    stiffness: LinearStiffness = Field(0.0, ge=0)
    damping: LinearDamping = Field(0.0, ge=0)
    rest_length: Length | None = Field(None, ge=0)
