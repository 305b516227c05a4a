"""The JSON Schema of robot and scene documents, made from the definitions that read them.

`python -m mooring.formats.document.schema FILE` writes it; editors use it for completion.
"""

from __future__ import annotations

import functools
import json
import operator
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any, get_args

from pydantic import ConfigDict, TypeAdapter, create_model

from mooring.docstrings import attribute_words
from mooring.files import write_text
from mooring.formats.document.entries import MeshEntry
from mooring.formats.document.places import FOUND_BY
from mooring.formats.document.sections import (
    BodyEntry,
    DocumentKind,
    DocumentSection,
    Field,
    sections_of,
)
from mooring.model.collision.definition import RULES, CollisionRule
from mooring.model.definition.described import Described
from mooring.model.definition.walking import fields_of
from mooring.model.link import Link
from mooring.model.placement import PlacementEntry
from mooring.model.shapes.placed import BESIDE, SHAPES

_QUANTITY = {"anyOf": [{"type": "number"}, {"type": "string"}]}
_COMMENTS = {"a place": "Place", "a shape": "Shape", "a collision": "Collision"}
"""What fields that are read in several ways say of themselves."""


def document_schema() -> dict[str, Any]:
    """The schema (JSON Schema, draft 2020-12)."""
    sections: dict[str, DocumentSection] = {
        section.key: section for kind in get_args(DocumentKind) for section in sections_of(kind)
    }
    entries = {key: _type_of(section) for key, section in sections.items()}
    fields: Any = {f"of_{key}": (entry, ...) for key, entry in entries.items()}
    more: Any = {f"more_{k}": (entry, ...) for k, entry in enumerate(_more())}
    config = ConfigDict(arbitrary_types_allowed=True)
    everything = create_model("Made", __config__=config, **fields, **more)
    made = everything.model_json_schema(ref_template="#/$defs/{model}")
    definitions = made["$defs"]
    for kind in _subclasses(Described):
        if kind.__name__ in definitions:
            _without_the_users_not_to_give(definitions[kind.__name__], kind)
    beside = {name: definitions[MeshEntry.__name__]["properties"][name] for name in BESIDE}
    definitions |= _shapes_and_places(beside)
    for link in (Link, BodyEntry):
        # One shape may stand on the link itself.
        single = {kind: _shape_field(kind) for kind in SHAPES}
        single |= {key: entry for key, entry in beside.items() if key != "name"}
        definitions[link.__name__]["properties"] |= single
    definitions["LinkFrame"]["properties"] |= definitions["PlacementEntry"]["properties"]
    each = {key: made["properties"][f"of_{key}"] for key in sections}
    schema = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Mooring document",
        "if": {"properties": {"kind": {"const": "scene"}}, "required": ["kind"]},
        "then": _document("scene", each),
        "else": _document("robot", each),
        "$defs": definitions,
    }
    readable: dict[str, Any] = _with_expressions(schema)
    return readable


def _type_of(section: DocumentSection) -> Any:
    """The type of an entry of a section."""
    types = [
        fields_of(entry.definition)[entry.name] if isinstance(entry, Field) else entry
        for entry in section.entries
    ]
    return types[0] if len(types) == 1 else functools.reduce(operator.or_, types)


def _more() -> Iterator[type[Described]]:
    """Entries that stand inside others, where the type of a field does not tell."""
    yield from (PlacementEntry, MeshEntry, CollisionRule)
    yield from FOUND_BY.values()


def _subclasses(kind: type) -> Iterator[Any]:
    inner: Any
    for inner in kind.__subclasses__():
        yield inner
        yield from _subclasses(inner)


def _shapes_and_places(beside: dict[str, Any]) -> dict[str, Any]:
    shapes = [
        {
            "type": "object",
            "properties": {kind: _shape_field(kind), **beside},
            "required": [kind],
            "additionalProperties": False,
        }
        for kind in SHAPES
    ]
    return {
        "Place": {
            "description": "where something is: by numbers, or found in the CAD",
            "anyOf": [_ref(kind.__name__) for kind in (PlacementEntry, *FOUND_BY.values())]
            + [{"type": "array", "items": _QUANTITY, "minItems": 3, "maxItems": 3}],
        },
        "Shape": {
            "description": "a plain shape, or a mesh from a file",
            "anyOf": [*shapes, _ref("MeshEntry")],
        },
        "Collision": {
            "description": "a rule by name, a rule with its numbers, a shape, or a list of such",
            "anyOf": [_ref("OneCollision"), {"type": "array", "items": _ref("OneCollision")}],
        },
        "OneCollision": {"anyOf": [{"enum": list(RULES)}, _ref("CollisionRule"), _ref("Shape")]},
    }


def _shape_field(kind: str) -> dict[str, Any]:
    """What stands under a shape's name: its one number or list, or several by name."""
    definition = SHAPES[kind]
    each = {name: TypeAdapter(hint).json_schema() for name, hint in fields_of(definition).items()}
    words = {"description": " ".join((definition.__doc__ or "").split())}
    if len(each) == 1:
        return {**next(iter(each.values())), **words}
    return {
        **words, "type": "object", "properties": each, "required": list(each),
        "additionalProperties": False,
    }  # fmt: skip


def _document(kind: DocumentKind, each: dict[str, Any]) -> dict[str, Any]:
    forms: dict[str, dict[str, Any]] = {}
    each_entry: dict[str, Any]
    for section in sections_of(kind):
        entry = each[section.key]
        entry = {k: v for k, v in entry.items() if k != "title"}
        if section.form == "list":
            # One alone needs no list.
            forms[section.key] = {"anyOf": [{"type": "array", "items": entry}, entry]}
        elif section.form in ("name", "pattern"):
            each_entry = entry if _required(section) else {"anyOf": [entry, {"type": "null"}]}
            forms[section.key] = {"type": "object", "additionalProperties": each_entry}
        elif section.key == "ground":
            forms[section.key] = {"anyOf": [{"const": True}, _ref("Ground")]}
        else:
            forms[section.key] = entry
    forms["cad"]["anyOf"][0]["minItems"] = 1
    return {
        "type": "object",
        "required": ["mooring"] if kind == "robot" else ["mooring", "kind"],
        "additionalProperties": False,
        "properties": {**_head(kind), **forms},
    }


def _required(section: DocumentSection) -> bool:
    """Whether an entry must have something in it."""
    return not any(
        isinstance(entry, type)
        and issubclass(entry, Described)
        and not any(entry.model_fields[name].is_required() for name in fields_of(entry))
        for entry in section.entries
    )


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


def _without_the_users_not_to_give(schema: dict[str, Any], kind: Any) -> None:
    """Names stand as keys, and what follows from other fields is not written at all."""
    for name, field in kind.model_fields.items():
        if field.exclude:
            schema["properties"].pop(name, None)
            if name in schema.get("required", ()):
                schema["required"].remove(name)
    schema["description"] = " ".join((kind.__doc__ or "").partition("Attributes:")[0].split())
    words: dict[str, str] = {}
    for owner in reversed(kind.__mro__):
        words |= attribute_words((owner.__doc__ or "").partition("Attributes:")[2])
    for name, entry in schema["properties"].items():
        entry.pop("title", None)
        if name in words:
            entry["description"] = words[name]
    schema.pop("title", None)


def _with_expressions(value: Any) -> Any:
    """Wherever a number may stand, an expression may stand too."""
    if isinstance(value, list):
        return [_with_expressions(item) for item in value]
    if not isinstance(value, dict):
        return value
    comment = value.get("$comment")
    if comment in _COMMENTS:
        words = {k: v for k, v in value.items() if k == "description"}
        return {**words, **_ref(_COMMENTS[comment])}
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


def _ref(name: str) -> dict[str, str]:
    return {"$ref": f"#/$defs/{name}"}


def schema_text() -> str:
    """The schema as it is written to a file."""
    return json.dumps(document_schema(), indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    write_text(Path(sys.argv[1]), schema_text())
