"""The messages described for other programs: AsyncAPI 3.0, JSON Schema, and a table for people.

`python -m mooring.bridge.messages.listing docs` writes `bridge.asyncapi.json`, `bridge.schema.json`
and `bridge_messages.md` into a folder.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from mooring.bridge.messages import INCOMING, OUTGOING, VERSION, Message
from mooring.bridge.messages.incoming import Said
from mooring.docstrings import attribute_words
from mooring.files import write_text

_DRAFT = "https://json-schema.org/draft/2020-12/schema"
_BROKER = {
    "welcome": ("What there is; retained.", ["welcome"]),
    "state": ("How everything is.", ["state"]),
    "poses": ("Where all frames are.", ["poses"]),
    "event": ("What happened.", ["event"]),
    "sensor/{sensor}": ("Measurements, but for pictures, for which a program asks.",
                        ["measurement", "scan"]),
}  # fmt: skip


def schemas() -> dict[str, Any]:
    """The JSON Schema of all messages: a definition each, and one for each direction."""
    definitions: dict[str, Any] = {}
    for message in (*INCOMING.values(), *OUTGOING.values()):
        mode: Any = "validation" if message.kind in INCOMING else "serialization"
        made = message.model_json_schema(ref_template="#/$defs/{model}", mode=mode)
        for name, inner in made.pop("$defs", {}).items():
            definitions[name] = inner
        definitions[message.__name__] = made
    by_name = {kind.__name__: kind for kind in _subclasses(Message)}
    for name, made in definitions.items():
        if name in by_name:
            _describe(made, by_name[name])
    for side in (INCOMING, OUTGOING):
        for kind, message in side.items():
            made = definitions[message.__name__]
            made["properties"] = {"kind": {"const": kind}, **made["properties"]}
            made["required"] = ["kind", *made.get("required", [])]
    for name, side in (("Incoming", INCOMING), ("Outgoing", OUTGOING)):
        definitions[name] = {"oneOf": [{"$ref": f"#/$defs/{m.__name__}"} for m in side.values()]}
    return {
        "$schema": _DRAFT,
        "title": f"Messages of Mooring, version {VERSION}",
        "anyOf": [{"$ref": "#/$defs/Incoming"}, {"$ref": "#/$defs/Outgoing"}],
        "$defs": dict(sorted(definitions.items())),
    }


def _subclasses(kind: type[Message]) -> Iterator[type[Message]]:
    for inner in kind.__subclasses__():
        yield inner
        yield from _subclasses(inner)


def _describe(made: dict[str, Any], kind: type[Message]) -> None:
    summary, fields = _words(kind)
    made["description"] = summary
    for name, words in fields.items():
        if name in made["properties"] and "$ref" not in made["properties"][name]:
            made["properties"][name]["description"] = words


def _words(kind: type[Message]) -> tuple[str, dict[str, str]]:
    """What the docstring says of a message and, with those above it, of its fields."""
    fields: dict[str, str] = {}
    for each in reversed(kind.__mro__):
        if not (isinstance(each, type) and issubclass(each, Message)):
            continue
        fields |= attribute_words((each.__doc__ or "").partition("Attributes:")[2])
    summary = (kind.__doc__ or "").partition("Attributes:")[0]
    return " ".join(summary.split()), fields


def asyncapi() -> dict[str, Any]:
    """The AsyncAPI document."""
    schema = schemas()
    definitions = json.loads(
        json.dumps(schema["$defs"]).replace("#/$defs/", "#/components/schemas/")
    )
    messages = {
        message.kind: {
            "name": message.kind,
            "summary": definitions[message.__name__]["description"],
            "payload": {"$ref": f"#/components/schemas/{message.__name__}"},
        }
        for message in (*INCOMING.values(), *OUTGOING.values())
    }
    ways = {"in": list(INCOMING), "out": list(OUTGOING)}
    channels: dict[str, Any] = {
        "websocket": _channel("/", "All messages, both ways: text is JSON, binary frames are CBOR.",
                              [*INCOMING, *OUTGOING], "websocket"),
        "from": _channel("{base}/from/{client}", "What a program says.", list(INCOMING), "mqtt"),
        "to": _channel("{base}/to/{client}", "What it is told: a message, or a list of them.",
                       list(OUTGOING), "mqtt"),
        "alive": {
            "address": "{base}/alive", "servers": [{"$ref": "#/servers/mqtt"}],
            "description": "`true` while it is there, and `false` from its last will; retained.",
            "parameters": _parameters("{base}/alive"),
            "messages": {"alive": {"payload": {"type": "boolean"}}},
        },
    }  # fmt: skip
    for address, (words, kinds) in _BROKER.items():
        channels[address.partition("/")[0]] = _channel(f"{{base}}/{address}", words, kinds, "mqtt")
    operations = {}
    for name, channel in channels.items():
        for way, action in (("in", "receive"), ("out", "send")):
            kinds = [kind for kind in channel["messages"] if kind in ways[way]]
            if kinds:
                operations[f"{action}-{name}"] = {
                    "action": action, "channel": {"$ref": f"#/channels/{name}"},
                    "messages": [{"$ref": f"#/channels/{name}/messages/{kind}"} for kind in kinds],
                }  # fmt: skip
    return {
        "asyncapi": "3.0.0",
        "info": {
            "title": "Simulations and machines of Mooring",
            "version": VERSION,
            "description": "Joint targets in, states and measurements out, by name and in SI; "
            "stamped with simulated time, or that of the machine's clock. The first message of a "
            "program is `hello`.",
        },
        "defaultContentType": "application/json",
        "servers": {
            "websocket": {"host": "127.0.0.1:8640", "protocol": "ws",
                          "description": "As `mooring run --listen` prints it."},
            "mqtt": {"host": "localhost:1883", "protocol": "mqtt", "protocolVersion": "5",
                     "description": "Any broker."},
        },
        "channels": channels,
        "operations": operations,
        "components": {"messages": messages, "schemas": definitions},
    }  # fmt: skip


def _channel(address: str, words: str, kinds: list[str], server: str) -> dict[str, Any]:
    channel: dict[str, Any] = {
        "address": address, "description": words, "servers": [{"$ref": f"#/servers/{server}"}],
        "messages": {kind: {"$ref": f"#/components/messages/{kind}"} for kind in kinds},
    }  # fmt: skip
    if parameters := _parameters(address):
        channel["parameters"] = parameters
    return channel


def _parameters(address: str) -> dict[str, Any]:
    said = {"base": "A topic of one's own, such as `quay`.", "client": "The client's identifier.",
            "sensor": "The sensor's name."}  # fmt: skip
    return {
        name: {"description": words} for name, words in said.items() if f"{{{name}}}" in address
    }


def table() -> str:
    """The messages as Markdown."""
    lines = ["<!-- Made by python -m mooring.bridge.messages.listing docs -->", ""]
    for title, side in (("What a program says", INCOMING), ("What it is told", OUTGOING)):
        lines += [f"## {title}", "", "| kind | fields | |", "| --- | --- | --- |"]
        for kind, message in side.items():
            summary, _ = _words(message)
            fields = ", ".join(
                f"`{name}`" for name in message.model_fields if name != "id" or side is OUTGOING
            )
            first = summary.split(". ")[0].rstrip(".")
            lines.append(f"| `{kind}` | {fields or 'none'} | {first} |")
        lines.append("")
    about = _words(Said)[1]["id"]
    lines.append(f"Each message of a program may have an `id`: it {about}")
    return "\n".join(lines) + "\n"


def files() -> dict[str, str]:
    """What is published, by file name."""
    return {
        "bridge.asyncapi.json": _text(asyncapi()),
        "bridge.schema.json": _text(schemas()),
        "bridge_messages.md": table(),
    }


def _text(value: Any) -> str:
    return json.dumps(value, indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    for name, text in files().items():
        write_text(Path(sys.argv[1]) / name, text)
