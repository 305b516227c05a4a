"""What a user says about a link's collision shapes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Any, Literal, get_args

from pydantic import BeforeValidator, Field, WithJsonSchema, model_validator

from mooring.errors import did_you_mean
from mooring.model.fields import Color, Described, Length, Lengths
from mooring.model.placement import Placement, PlacementField
from mooring.model.shapes import Box, Capsule, Cylinder, PlacedShape, Primitive, Sphere
from mooring.model.validation import EntryError, define

RuleName = Literal["none", "box", "cylinder", "capsule", "sphere", "hull", "pieces", "mesh", "auto"]
RULES: tuple[str, ...] = get_args(RuleName)


def _listed(value: Any) -> Any:
    return (value,) if isinstance(value, str) else value


class CollisionRule(Described):
    """How shapes are fitted around the parts of a link.

    Attributes:
        fit: the smallest box, cylinder, capsule or sphere in any orientation; the convex hull;
            convex pieces; the parts' own triangles; none; or auto, the cheapest of sphere, capsule,
            box, cylinder, hull and pieces that is close enough.
        parts: name patterns of the link's parts to cover; all if not given.
        pieces: at most so many convex pieces.
        error: for pieces, stop when no piece stands out from the parts farther than this [m].
        clearance: how much the shapes are shrunk on every side [m].
        excess: for auto, how much larger than the parts' hull a shape may be, as a share of it.
        overhang: for auto, how far a shape may stand out from the parts [m]; a tenth of their size
            if not given.
    """

    fit: RuleName
    parts: Annotated[
        tuple[str, ...],
        BeforeValidator(_listed),
        WithJsonSchema(
            {"anyOf": [{"type": "string"}, {"type": "array", "items": {"type": "string"}}]}
        ),
    ] = ()
    pieces: int = Field(8, ge=1, le=64)
    error: Length | None = Field(None, gt=0)
    clearance: Length = Field(0.0, ge=0)
    excess: float = Field(0.4, ge=0)
    overhang: Length | None = Field(None, gt=0)

    model_config = Described.model_config | {"frozen": True, "validate_assignment": False}


class BarEntry(Described):
    """A cylinder or capsule along z.

    Attributes:
        radius: [m].
        length: [m]; of a capsule without its ends.
    """

    radius: Length = Field(gt=0)
    length: Length = Field(gt=0)


class ShapeEntry(Described):
    """One shape, written out; just one of the first four is given.

    Attributes:
        box: full extents [m].
        sphere: radius [m].
        cylinder, capsule: radius and length.
        at: where its middle is, on the link or in the CAD.
        name: what it is called.
        color: "#rrggbb", where it is shown.
    """

    box: Lengths | None = None
    sphere: Length | None = Field(None, gt=0)
    cylinder: BarEntry | None = None
    capsule: BarEntry | None = None
    at: PlacementField = Field(default_factory=Placement)
    name: str = ""
    color: Color | None = None

    @model_validator(mode="after")
    def _just_one(self) -> ShapeEntry:
        given = [k for k in ("box", "sphere", "cylinder", "capsule") if getattr(self, k)]
        if len(given) != 1:
            raise ValueError("give one of box, sphere, cylinder, capsule, or fit")
        return self

    @property
    def shape(self) -> PlacedShape:
        """The shape at its place."""
        made: Primitive
        if self.box is not None:
            made = Box(self.box)
        elif self.sphere is not None:
            made = Sphere(self.sphere)
        elif self.cylinder is not None:
            made = Cylinder(self.cylinder.radius, self.cylinder.length)
        else:
            assert self.capsule is not None
            made = Capsule(self.capsule.radius, self.capsule.length)
        return PlacedShape(made, self.at, self.name, self.color)


CollisionWords = str | Mapping[str, Any] | CollisionRule | PlacedShape
"""One thing that may be said of a link's collision: a rule's name, a rule, a shape."""


def read_collision(
    said: CollisionWords | Sequence[CollisionWords],
) -> tuple[tuple[CollisionRule, ...], list[PlacedShape]]:
    """Rules, and shapes that are given, from what a user says.

    Raises:
        EntryError: what is wrong, with the number of the item in a list.
    """
    if isinstance(said, str | Mapping | CollisionRule | PlacedShape):
        return _read([said], numbered=False)
    if not isinstance(said, Sequence):
        raise EntryError("collision", [((), f"expected a rule, a shape or a list, got {said!r}")])
    return _read(said, numbered=True)


def _read(
    items: Sequence[CollisionWords], numbered: bool
) -> tuple[tuple[CollisionRule, ...], list[PlacedShape]]:
    rules: list[CollisionRule] = []
    shapes: list[PlacedShape] = []
    for number, item in enumerate(items):
        try:
            if isinstance(item, PlacedShape):
                shapes.append(item)
            elif isinstance(item, CollisionRule):
                rules.append(item)
            elif isinstance(item, str):
                rules.append(_named(item))
            elif isinstance(item, Mapping) and "fit" in item:
                rules.append(define(CollisionRule, "collision", item))
            else:
                shapes.append(define(ShapeEntry, "collision", item).shape)
        except EntryError as error:
            before = (number,) if numbered else ()
            raise error.inside(*before, what="collision") from None
    return tuple(rule for rule in rules if rule.fit != "none"), shapes


def _named(name: str) -> CollisionRule:
    if name not in RULES:
        raise EntryError(
            "collision", [((), f"unknown collision rule {name!r}{did_you_mean(name, RULES)}")]
        )
    return CollisionRule.model_validate({"fit": name})
