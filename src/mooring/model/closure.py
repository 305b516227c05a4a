"""Closures: connections that a tree cannot hold."""

from __future__ import annotations

from typing import Any, Literal, get_args

from pydantic import Field, model_validator

from mooring.model.definition.described import Described
from mooring.model.definition.fields import Direction
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
    """

    name: str = Field(exclude=True)
    kind: ClosureKind
    between: tuple[LinkName, LinkName]
    at: PlacementField = Field(default_factory=Placement)
    axis: Direction = (0.0, 0.0, 1.0)

    @model_validator(mode="before")
    @classmethod
    def _an_axis_of_the_cad_tells_its_direction(cls, value: Any, info: Any) -> Any:
        return axis_along(value, info)

    def placed_on(self) -> str:
        return self.between[0]
