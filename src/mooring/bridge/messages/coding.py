"""Messages as bytes: JSON (RFC 8259) or CBOR (RFC 8949)."""

from __future__ import annotations

import base64
import json
from typing import Any

import cbor2
import orjson

from mooring.errors import InputError

LARGEST = 1 << 20
"""Of a message from outside [bytes]."""


def encode(message: dict[str, Any] | list[dict[str, Any]], *, binary: bool) -> bytes:
    """A message as CBOR, or as JSON."""
    return cbor2.dumps(message) if binary else orjson.dumps(message, default=_as_text)


def _as_text(value: object) -> str:
    if isinstance(value, bytes):
        return base64.b64encode(value).decode("ascii")
    raise TypeError(f"{type(value).__name__} cannot be sent")


def _without_twins(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) < len(pairs):
        names = [name for name, _ in pairs]
        twin = next(name for name in names if names.count(name) > 1)
        raise ValueError(f"{twin[:60]!r} is given twice")
    return found


def _no_constant(word: str) -> None:
    raise ValueError(f"{word} is no number of JSON")


def decode(data: bytes | str) -> dict[str, Any]:
    """What a program said; text is JSON, and so are bytes that begin with a brace.

    Raises:
        InputError: it is neither JSON nor CBOR, no object, or too large.
    """
    if len(data) > LARGEST:
        raise InputError(f"a message has {LARGEST} bytes at most, this one has {len(data)}")
    try:
        if isinstance(data, str) or data[:1] == b"{":
            said = json.loads(data, object_pairs_hook=_without_twins, parse_constant=_no_constant)
        else:
            said = cbor2.loads(data)
    except (ValueError, RecursionError, EOFError, cbor2.CBORError) as error:
        raise InputError(f"this is neither JSON nor CBOR: {str(error)[:200]}") from None
    if not isinstance(said, dict) or not all(isinstance(key, str) for key in said):
        raise InputError("a message is an object with names")
    return said
