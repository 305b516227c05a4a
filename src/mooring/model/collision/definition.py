"""What a user says about a link's collision shapes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Any, Literal, get_args

from pydantic import BeforeValidator, Field, ValidationInfo, WithJsonSchema, model_validator

from mooring.errors import did_you_mean, told
from mooring.model.definition.described import Value
from mooring.model.definition.fields import Length, Patterns
from mooring.model.definition.problems import EntryError, define
from mooring.model.shapes import PlacedShape
from mooring.model.shapes.placed import read_shape

RuleName = Literal["none", "box", "cylinder", "capsule", "sphere", "hull", "pieces", "mesh", "auto"]
Line = tuple[tuple[float, float, float], tuple[float, float, float]]
"""A point [m] and a direction."""
RULES: tuple[str, ...] = get_args(RuleName)


class CollisionRule(Value):
    """How shapes are fitted around the parts of a link.

    Attributes:
        fit: the smallest box, cylinder, capsule or sphere in any orientation; the convex hull;
            convex pieces; the parts' own triangles; none; or auto, the cheapest of sphere, capsule,
            box, cylinder, hull and pieces that is close enough.
        parts: name patterns of the link's parts to cover; all if not given.
        pieces: at most so many convex pieces; 8 if not given, and 24 for auto.
        error: for pieces, stop when no piece stands out from the parts farther than this [m].
        about: joint, for a cylinder or capsule about the axis of the joint that moves the link.
        clearance: how much the shapes are shrunk on every side [m].
        excess: for auto, how much larger than the parts' hull a shape may be, as a share of it.
        overhang: for auto, how far a shape may stand out from the parts [m]; a tenth of their size
            if not given.
    """

    fit: RuleName
    parts: Patterns = ()
    pieces: int | None = Field(default=None, ge=1, le=64)
    error: Length | None = Field(default=None, gt=0)
    about: Literal["joint"] | None = None
    clearance: Length = Field(default=0.0, ge=0)
    excess: float = Field(default=0.4, ge=0)
    overhang: Length | None = Field(default=None, gt=0)

    @model_validator(mode="after")
    def _about_is_for_what_is_round(self) -> CollisionRule:
        if self.about is not None and self.fit not in ("cylinder", "capsule", "auto"):
            raise ValueError(f"about is for cylinder, capsule and auto, not for {self.fit}")
        return self


CollisionWords = str | Mapping[str, Any] | CollisionRule | PlacedShape
"""One thing that may be said of a link's collision: a rule's name, a rule, a shape."""


def read_collision(
    said: CollisionWords | Sequence[CollisionWords] | None, info: ValidationInfo | None = None
) -> tuple[CollisionRule | PlacedShape, ...] | None:
    """Rules and shapes from what a user says, in the order it is said.

    Raises:
        EntryError: what is wrong, with the number of the item in a list.
    """
    if said is None:
        return None
    if isinstance(said, str | Mapping | CollisionRule | PlacedShape):
        read = [_read(said, info)]
    elif not isinstance(said, Sequence):
        raise EntryError(
            "collision", [((), f"expected a rule, a shape or a list, got {told(said)}")]
        )
    else:
        read = []
        for number, item in enumerate(said):
            try:
                read.append(_read(item, info))
            except EntryError as error:
                raise error.inside(number) from None
    return tuple(one for one in read if not (isinstance(one, CollisionRule) and one.fit == "none"))


def _validated(value: Any, info: ValidationInfo) -> Any:
    # Its second argument may not have a default, or Pydantic would not give it.
    return read_collision(value, info)


Collision = Annotated[
    tuple[CollisionRule | PlacedShape, ...],
    BeforeValidator(_validated),
    WithJsonSchema({"$comment": "a collision"}),
]
"""By which rules shapes are fitted around parts, and shapes besides."""


def _read(item: CollisionWords, info: ValidationInfo | None) -> CollisionRule | PlacedShape:
    if isinstance(item, CollisionRule):
        return item
    if isinstance(item, str):
        if item not in RULES:
            text = f"unknown collision rule {item!r}{did_you_mean(item, RULES)}"
            raise EntryError("collision", [((), text)])
        return CollisionRule.model_validate({"fit": item})
    if isinstance(item, Mapping) and "fit" in item:
        return define(CollisionRule, "collision", item)
    return read_shape(item, info)
