"""The types of what may be said of items in calls, made from their definitions.

`python -m mooring.model.robot.keyword_types src/mooring/model/robot/keywords.py` writes them, so
that editors complete `robot.add_joint(...)` and type checkers find a keyword that is misspelt.
"""

from __future__ import annotations

import sys
import types
from pathlib import Path
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from mooring.files import write_text
from mooring.model.cable import Cable
from mooring.model.chain import Chain
from mooring.model.closure import Closure
from mooring.model.collision import Collision
from mooring.model.compound_joint import CompoundJoint
from mooring.model.conveyor import Conveyor
from mooring.model.coupling import Coupling
from mooring.model.definition.described import Described
from mooring.model.definition.markers import Geometric, JointQuantity, Quantity
from mooring.model.definition.variants import VariantName
from mooring.model.definition.walking import fields_of
from mooring.model.dimension_table import DimensionTable
from mooring.model.frame import LinkFrame
from mooring.model.giving_joint import GivingJoint
from mooring.model.grip import Grip
from mooring.model.joint import Limits
from mooring.model.joint_types import JOINT_TYPES
from mooring.model.joint_values import JointValues
from mooring.model.link import Link, Parts, Shapes
from mooring.model.material import Material
from mooring.model.motor import Motor
from mooring.model.shapes.placed import SHAPES, Beside
from mooring.model.spring import Spring

_CALLS: dict[str, tuple[tuple[type, ...], tuple[str, ...]]] = {
    "LinkKeywords": ((Link, Beside), ("name",)),
    "JointKeywords": ((GivingJoint, Limits, CompoundJoint), ("type", "parent", "child")),
    "ChainKeywords": ((Chain,), ("base", "convention", "rows")),
    "CouplingKeywords": ((Coupling,), ("follows",)),
    "ClosureKeywords": ((Closure,), ("kind", "between")),
    "TableKeywords": ((DimensionTable,), ("base", "rows")),
    "LimitsKeywords": ((JointValues,), ()),
    "SpringKeywords": ((Spring,), ("between",)),
    "CableKeywords": ((Cable,), ()),
    "ConveyorKeywords": ((Conveyor,), ("link",)),
    "GripKeywords": ((Grip,), ("frame", "force")),
    "MotorKeywords": ((Motor,), ("joint",)),
    "FrameKeywords": ((LinkFrame,), ("link",)),
    "MaterialKeywords": ((Material,), ("density",)),
}
"""Definitions whose fields a call takes, and those of them that it takes by itself."""
_PLACE = {
    "xyz": "Sequence[Number]", "rpy": "Sequence[Number]", "relative_to": "Literal['link', 'cad']",
}  # fmt: skip
"""What may be said of a frame beside its fields: its place."""
_SPECIAL = {
    Parts: "Sequence[Part]",
    Shapes: "Sequence[PlacedShape | Mapping[str, Any]]",
    Collision: "CollisionWords | Sequence[CollisionWords]",
}
_HEAD = '''"""What may be said of items in calls; made by `mooring.model.robot.keyword_types`."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Literal, TypedDict

from mooring.cad import Part
from mooring.model.collision import CollisionWords
from mooring.model.definition.described import Described
from mooring.model.placement import Where
from mooring.model.shapes import PlacedShape

Number = float | str
"""In SI, or with its unit."""
JointTypeName = {joint_types}
"""A type of joint that Mooring has."""
Entry = Mapping[str, Any]
"""The fields of a definition that stands inside another."""
'''


def keywords_text() -> str:
    """The module as it is written to its file."""
    joint_types = f"Literal{[name for name in JOINT_TYPES if name not in JOINT_TYPES.origins]}"
    lines = [_HEAD.replace("{joint_types}", joint_types.replace("'", '"'))]
    beside: dict[type, dict[str, str]] = {Link: _single_shapes(), LinkFrame: _PLACE}
    for name, (definitions, apart) in _CALLS.items():
        fields = {
            key: hint for kind in reversed(definitions) for key, hint in fields_of(kind).items()
        }
        lines += ["", f"class {name}(TypedDict, total=False):"]
        lines += [f"    {key}: {_text(hint)}" for key, hint in fields.items() if key not in apart]
        for kind in definitions:
            lines += [f"    {key}: {text}" for key, text in beside.get(kind, {}).items()]
        lines += [""]
    return "\n".join(lines).rstrip() + "\n"


def _single_shapes() -> dict[str, str]:
    """What may be said of a link beside its fields: its one shape, by its one size or by name."""
    found = {}
    for kind, shape in SHAPES.items():
        if kind not in SHAPES.origins:
            sizes = list(fields_of(shape).values())
            found[kind] = _text(sizes[0]) if len(sizes) == 1 else "Entry"
    return found


def _text(hint: Any) -> str:
    """The type of what a call takes for a field."""
    if hint is None or hint is type(None):
        return "None"
    origin, args = get_origin(hint), get_args(hint)
    special = next((text for kind, text in _SPECIAL.items() if kind is hint), None)
    if special is not None:
        return special
    if origin is Annotated:
        for marker in args[1:]:
            if (
                isinstance(marker, Geometric)
                and marker.what != "moments"
                and marker.what != "point"
            ):
                return "Where" if marker.what == "placement" else "str | Sequence[float]"
            if isinstance(marker, VariantName):
                own = [n for n in marker.variants if n not in marker.variants.origins]
                return f"Literal[{', '.join(map(repr, own))}]"
            if isinstance(marker, Quantity | JointQuantity):
                return "Number" if args[0] is float else "Sequence[Number]"
        return _text(args[0])
    if origin in (Union, types.UnionType):
        return " | ".join(dict.fromkeys(_text(choice) for choice in args))
    if origin is Literal:
        return f"Literal[{', '.join(map(repr, args))}]"
    if origin is tuple:
        return f"Sequence[{' | '.join(dict.fromkeys(_text(a) for a in args if a is not Ellipsis))}]"
    if origin is dict:
        return f"Mapping[{_text(args[0])}, {_text(args[1])}]"
    if isinstance(hint, type) and issubclass(hint, Described):
        return "Entry | Described"
    return "Any" if hint is Any else str(hint.__name__)


if __name__ == "__main__":
    write_text(Path(sys.argv[1]), keywords_text())
