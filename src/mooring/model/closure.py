"""Closures: connections that a tree cannot hold."""

from __future__ import annotations

from typing import Any, Literal, get_args

from pydantic import Field, model_validator

from mooring.model.definition.described import Described, needs
from mooring.model.definition.fields import (
    AngularDamping,
    AngularStiffness,
    Direction,
    Length,
    LinearDamping,
    LinearStiffness,
)
from mooring.model.definition.markers import LinkName
from mooring.model.placement import Placement, PlacementField, axis_along

ClosureKind = Literal["ball", "hinge", "slide", "weld"]
HELD: dict[ClosureKind, tuple[bool, bool, bool, bool, bool, bool]] = {
    "ball": (False, False, False, True, True, True),
    "hinge": (True, True, False, True, True, True),
    "slide": (True, True, True, True, True, False),
    "weld": (True, True, True, True, True, True),
}
"""The relative motions that each kind holds: turning about x, y, z; moving along x, y, z."""
assert tuple(HELD) == get_args(ClosureKind)


class Closure(Described):
    """A connection that closes a loop which the tree alone cannot hold.

    At the neutral posture (every joint at zero) both links meet at `at`.

    Attributes:
        name: unique among the robot's closures.
        kind: what the two links may still do: turn in a point, turn about the axis, slide along
            the axis, or nothing.
        between: names of the two links.
        at: where they meet; `relative_to: link` is the first of the two.
        axis: unit vector in the frame of `at`, for hinge and slide.
        stiffness: force per length by which it gives; rigid if not given [N/m].
        damping: force per speed, where it gives [N s/m].
        turning_stiffness: moment per angle, where it holds that; rigid if not given [N m/rad].
        turning_damping: moment per turning speed, where it gives [N m s/rad].
        play: how far the two places may be apart, across what the kind lets slide [m].
    """

    name: str = Field(exclude=True)
    kind: ClosureKind
    between: tuple[LinkName, LinkName]
    at: PlacementField = Field(default_factory=Placement)
    axis: Direction = (0.0, 0.0, 1.0)
    stiffness: LinearStiffness | None = Field(default=None, gt=0)
    damping: LinearDamping = Field(default=0.0, ge=0)
    turning_stiffness: AngularStiffness | None = Field(default=None, gt=0)
    turning_damping: AngularDamping = Field(default=0.0, ge=0)
    play: Length = Field(default=0.0, ge=0)

    @model_validator(mode="before")
    @classmethod
    def _an_axis_of_the_cad_tells_its_direction(cls, value: Any, info: Any) -> Any:
        return axis_along(value, info)

    @model_validator(mode="after")
    def _one_of_both(self) -> Closure:
        needs(self, damping="stiffness", turning_damping="turning_stiffness")
        if self.play and self.stiffness is not None:
            raise ValueError("give either stiffness or play")
        return self

    @property
    def gives(self) -> bool:
        """Whether it has play, or gives."""
        return self.play > 0 or self.stiffness is not None or self.turning_stiffness is not None

    def placed_on(self) -> str:
        return self.between[0]
