"""Which variants of other packages a robot uses."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from mooring.model.definition.described import Described
from mooring.model.definition.variants import VariantName, Variants, kind_of
from mooring.model.definition.walking import fields_of
from mooring.model.note import Note
from mooring.model.registry import KINDS
from mooring.model.shapes import SHAPES

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot


def origin_notes(robot: Robot) -> list[Note]:
    """A note for each variant of another package that a robot uses."""
    used = dict.fromkeys(_used(robot))
    return [
        Note(f"the {variants.kind} {name!r} is defined by {variants.origins[name]}", shown=True)
        for variants, name in used
        if name in variants.origins
    ]


def _used(robot: Robot) -> Iterator[tuple[Variants[Any], str]]:
    for kind in KINDS.values():
        for item in robot.section(kind.name).values():
            if isinstance(kind.variants, Variants):
                yield kind.variants, kind_of(type(item))
            elif isinstance(kind.type, type) and issubclass(kind.type, Described):
                for field, hint in fields_of(kind.type).items():
                    for marker in getattr(hint, "__metadata__", ()):
                        if isinstance(marker, VariantName):
                            yield marker.variants, getattr(item, field)
    for link in robot.links.values():
        for placed in (*link.shapes, *link.visuals, *link.given_collisions):
            yield SHAPES, placed.shape.kind
