"""The JSON Schema of robot and scene documents, made from the definitions that read them.

`python -m mooring.formats.document.schema FILE` writes it; editors use it for completion.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

from pydantic.json_schema import models_json_schema

from mooring.files import write_text
from mooring.formats.document.entries import (
    AllowanceEntry,
    BodyEntry,
    BoreEntry,
    CadEntry,
    CentreEntry,
    FaceEntry,
    FootprintEntry,
    FrameEntry,
    IncludeEntry,
    LinkEntry,
    MeshEntry,
    SceneRobotEntry,
    SimplifyEntry,
    SlideEntry,
)
from mooring.model import (
    Calibration,
    Closure,
    Coupling,
    Joint,
    Limits,
    LinkFrame,
    Material,
    MotionStep,
    Motor,
    SoftLimits,
    Spring,
)
from mooring.model.chain import Chain, TableRow
from mooring.model.checking import Acceptance, CheckSettings
from mooring.model.collision.definition import RULES, BarEntry, CollisionRule, ShapeEntry
from mooring.model.compound import CompoundJoint, SimpleEntry
from mooring.model.fields import Described
from mooring.model.mass import PointMass
from mooring.model.motion import Drive, ReachTarget
from mooring.model.placement import PlacementEntry
from mooring.model.scene import Ground, Settings
from mooring.model.sensor import SENSOR_KINDS

_FOUND = (BoreEntry, SlideEntry, FaceEntry, CentreEntry, FrameEntry)
_DEFINITIONS: tuple[type[Described], ...] = (
    CadEntry, LinkEntry, IncludeEntry, Material, Joint, Coupling, Closure, Motor, LinkFrame,
    Spring, AllowanceEntry, FootprintEntry, MeshEntry,
    CheckSettings, Acceptance, SoftLimits, Calibration,
    BodyEntry, SceneRobotEntry, Ground, Settings, Drive, ReachTarget,
    MotionStep, CollisionRule, ShapeEntry, PlacementEntry, Limits, PointMass, SimplifyEntry,
    BarEntry, CompoundJoint, SimpleEntry, Chain, TableRow, *SENSOR_KINDS.values(), *_FOUND,
)  # fmt: skip
_QUANTITY = {"anyOf": [{"type": "number"}, {"type": "string"}]}


def document_schema() -> dict[str, Any]:
    """The schema (JSON Schema, draft 2020-12)."""
    _, made = models_json_schema(
        [(kind, "validation") for kind in _DEFINITIONS], ref_template="#/$defs/{model}"
    )
    definitions = made["$defs"]
    for kind in _DEFINITIONS:
        _without_the_users_not_to_give(definitions[kind.__name__], kind)
    definitions["Place"] = {
        "description": "where something is: by numbers, or found in the CAD",
        "anyOf": [_ref(kind) for kind in (PlacementEntry, *_FOUND)]
        + [{"type": "array", "items": _QUANTITY, "minItems": 3, "maxItems": 3}],
    }
    definitions["Collision"] = {
        "description": "a rule by name, a rule with its numbers, a shape, or a list of such",
        "anyOf": [
            _ref_to("OneCollision"),
            {"type": "array", "items": _ref_to("OneCollision")},
        ],
    }
    definitions["OneCollision"] = {
        "anyOf": [
            {"enum": list(RULES)},
            _ref(CollisionRule),
            _ref(ShapeEntry),
            _ref(MeshEntry),
        ]
    }
    shapes = {"anyOf": [_ref(ShapeEntry), _ref(MeshEntry)]}
    for kind in (LinkEntry, BodyEntry):
        entry = definitions[kind.__name__]["properties"]
        entry["collision"] = _ref_to("Collision")
        entry["visuals"]["items"] = shapes
    body, shape = (definitions[k.__name__]["properties"] for k in (BodyEntry, ShapeEntry))
    body["shapes"]["items"] = shapes
    for key in ("box", "sphere", "cylinder", "capsule", "color"):
        body[key] = shape[key]
    frame = definitions["LinkFrame"]["properties"]
    frame |= definitions["PlacementEntry"]["properties"]
    schema = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Mooring document",
        "if": {"properties": {"kind": {"const": "scene"}}, "required": ["kind"]},
        "then": _scene(),
        "else": _robot(),
        "$defs": definitions,
    }
    readable: dict[str, Any] = _with_expressions(schema)
    return readable


def _robot() -> dict[str, Any]:
    return {
        "type": "object",
        "required": ["mooring"],
        "additionalProperties": False,
        "properties": {
            **_head("robot"),
            "base": {"enum": ["fixed", "floating"], "description": "how the root is held"},
            "cad": {"type": "array", "items": _ref(CadEntry), "minItems": 1},
            "materials": _by_name(Material),
            "links": _by_name(LinkEntry),
            "collision": {"type": "object", "additionalProperties": _ref_to("Collision")},
            "include": {"type": "array", "items": _ref(IncludeEntry)},
            "frames": {
                "type": "object",
                "additionalProperties": {"anyOf": [_ref(LinkFrame), _ref(FootprintEntry)]},
            },
            "joints": {
                "type": "object",
                "additionalProperties": {"anyOf": [_ref(Joint), _ref(CompoundJoint)]},
            },
            "chains": _by_name(Chain),
            "couplings": _by_name(Coupling),
            "closures": _by_name(Closure),
            "springs": _by_name(Spring),
            "allowances": {"type": "array", "items": _ref(AllowanceEntry)},
            "motors": _by_name(Motor),
            **_driving(),
            "checks": _ref(CheckSettings),
        },
    }


def _scene() -> dict[str, Any]:
    steps = {"type": "array", "items": _ref(MotionStep)}
    settings = {key: _ref_into("Settings", key) for key in Settings.model_fields}
    return {
        "type": "object",
        "required": ["mooring", "kind"],
        "additionalProperties": False,
        "properties": {
            **_head("scene"),
            **settings,
            "ground": {"anyOf": [{"const": True}, _ref(Ground)]},
            "cad": {"type": "array", "items": _ref(CadEntry), "minItems": 1},
            "materials": _by_name(Material),
            "robots": _by_name(SceneRobotEntry),
            "obstacles": _by_name(BodyEntry),
            "bodies": _by_name(BodyEntry),
            "allowances": {"type": "array", "items": _ref(AllowanceEntry)},
            "closures": _by_name(Closure),
            "frames": _by_name(LinkFrame),
            **_driving(),
            "motion": {
                "anyOf": [{"type": "string"}, steps],
                "description": "the name of a motion, or its steps",
            },
        },
    }


def _head(kind: str) -> dict[str, Any]:
    return {
        "mooring": {"const": 1, "description": "version of the document format"},
        "kind": {"const": kind, "description": "a robot, or a scene of robots and other bodies"},
        "name": {"type": "string"},
        "values": {
            "type": "object",
            "additionalProperties": _QUANTITY,
            "description": "named quantities, used in expressions such as '=stroke / 2'",
        },
    }


def _driving() -> dict[str, Any]:
    return {
        "sensors": {
            "type": "object",
            "additionalProperties": {"anyOf": [_ref(kind) for kind in SENSOR_KINDS.values()]},
        },
        "postures": {
            "type": "object",
            "additionalProperties": {"type": "object", "additionalProperties": _QUANTITY},
        },
        "motions": {
            "type": "object",
            "additionalProperties": {"type": "array", "items": _ref(MotionStep)},
        },
    }


def _without_the_users_not_to_give(schema: dict[str, Any], kind: type[Described]) -> None:
    """Names stand as keys, and what follows from other fields is not written at all."""
    for name, field in kind.model_fields.items():
        if field.exclude:
            schema["properties"].pop(name, None)
            if name in schema.get("required", ()):
                schema["required"].remove(name)
    summary, _, attributes = (kind.__doc__ or "").partition("Attributes:")
    schema["description"] = " ".join(summary.split())
    words = _attribute_words(attributes)
    for name, entry in schema["properties"].items():
        entry.pop("title", None)
        if name in words:
            entry["description"] = words[name]
    schema.pop("title", None)


def _attribute_words(text: str) -> dict[str, str]:
    """What a docstring's section says of each attribute."""
    words: dict[str, str] = {}
    names: list[str] = []
    for line in text.splitlines():
        indent = len(line) - len(line.lstrip())
        if indent == 8 and ":" in line:
            head, _, rest = line.strip().partition(":")
            names = [name.strip() for name in head.split(",")]
            for name in names:
                words[name] = rest.strip()
        elif line.strip():
            for name in names:
                words[name] += f" {line.strip()}"
    return words


def _with_expressions(value: Any) -> Any:
    """Wherever a number may stand, an expression may stand too."""
    if isinstance(value, list):
        return [_with_expressions(item) for item in value]
    if not isinstance(value, dict):
        return value
    if value.get("$comment") == "a place":
        return {**{k: v for k, v in value.items() if k == "description"}, **_ref_to("Place")}
    if value.get("type") in ("number", "integer"):
        # A number with a unit is text as well; an expression begins with =.
        rest = {key: value[key] for key in ("description", "default") if key in value}
        bounds = {key: item for key, item in value.items() if key not in rest}
        return {**rest, "anyOf": [bounds, {"type": "string", "pattern": "^="}]}
    choices = value.get("anyOf")
    if isinstance(choices, list) and {"type": "string"} in choices:
        # Any text may stand here already.
        kept = [c if c.get("type") in ("number", "integer") else _with_expressions(c)
                for c in choices]  # fmt: skip
        return {**value, "anyOf": kept}
    return {
        key: item if key in ("default", "enum", "const") else _with_expressions(item)
        for key, item in value.items()
    }


def _ref(kind: type[Described]) -> dict[str, str]:
    return _ref_to(kind.__name__)


def _ref_to(name: str) -> dict[str, str]:
    return {"$ref": f"#/$defs/{name}"}


def _ref_into(name: str, key: str) -> dict[str, str]:
    return {"$ref": f"#/$defs/{name}/properties/{key}"}


def _by_name(kind: type[Described]) -> dict[str, Any]:
    entry: dict[str, Any] = _ref(kind)
    if not any(field.is_required() and not field.exclude for field in kind.model_fields.values()):
        entry = {"anyOf": [entry, {"type": "null"}]}
    return {"type": "object", "additionalProperties": entry}


def schema_text() -> str:
    """The schema as it is written to a file."""
    return json.dumps(document_schema(), indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    write_text(Path(sys.argv[1]), schema_text())
