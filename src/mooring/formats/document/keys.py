"""The list of all keys in `docs/keys.md`, made from the schema and so from the definitions.

`python -m mooring.formats.document.keys FILE` writes it.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from mooring.files import write_text
from mooring.formats.document.schema import document_schema

_HEAD = """# All keys of a document

What stands under each section of a robot (`kind: robot`, or nothing) and of a scene (`kind: \
scene`); [document.md](document.md) tells what they are for. Where a number stands, a quantity \
with its unit (`25 mm`) or an expression (`=stroke / 2`) may stand; a bare number is in the unit \
given in brackets. What has no default here and is not needed is left out when it is not given.

"""
_SECTION = "#/$defs/"


def keys_text() -> str:
    """The list as it is written to a file."""
    schema = document_schema()
    definitions = schema["$defs"]
    lines: list[str] = []
    seen: set[str] = set()
    for kind in ("else", "then"):
        for section, entry in schema[kind]["properties"].items():
            new = [name for name in _reached(entry, definitions) if name not in seen]
            seen |= set(new)
            tables = [name for name in new if definitions[name].get("properties")]
            if tables:
                lines += [f"## `{section}:`", ""]
            for name in tables:
                lines += _table(name, definitions[name])
    return _HEAD + "\n".join(lines).rstrip() + "\n"


def _reached(value: Any, definitions: dict[str, Any]) -> list[str]:
    """The definitions that something is made of, the nearest first."""
    found: dict[str, None] = {}
    wait = [value]
    while wait:
        for name in _named(wait.pop(0)):
            if name not in found:
                found[name] = None
                wait.append(definitions[name])
    return list(found)


def _named(value: Any) -> Iterator[str]:
    if isinstance(value, dict):
        if isinstance(value.get("$ref"), str):
            yield value["$ref"].removeprefix(_SECTION)
        for inner in value.values():
            yield from _named(inner)
    elif isinstance(value, list):
        for inner in value:
            yield from _named(inner)


def _table(name: str, definition: dict[str, Any]) -> list[str]:
    needed = definition.get("required", ())
    lines = [definition.get("description") or name, "", "| key | default | what it says |"]
    lines.append("| --- | --- | --- |")
    for key, entry in definition["properties"].items():
        default = "needed" if key in needed else _default(entry)
        words = " ".join(entry.get("description", "").split()).replace("|", "\\|")
        lines.append(f"| `{key}` | {default} | {words}{_choices(entry)} |")
    return [*lines, ""]


def _default(entry: dict[str, Any]) -> str:
    value = entry.get("default")
    if value in (None, [], {}, ""):
        return ""
    return f"`{json.dumps(value, ensure_ascii=False)}`"


def _choices(entry: dict[str, Any]) -> str:
    """Words of which one is given, where what it says does not name them already."""
    either = (entry, *entry.get("anyOf", ()))
    choices = [str(choice) for one in either for choice in one.get("enum", ())]
    told = all(choice in entry.get("description", "") for choice in choices)
    return "" if told else f" ({', '.join(choices)})"


if __name__ == "__main__":
    write_text(Path(sys.argv[1]), keys_text())
