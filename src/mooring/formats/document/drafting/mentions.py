"""Where a document that is being edited names parts of its CAD."""

from __future__ import annotations

import glob
from collections.abc import Iterator
from typing import Any

from mooring.errors import ModelError
from mooring.formats.document.drafting.text import pattern_of
from mooring.formats.document.editor import DocumentEditor
from mooring.formats.document.places import FOUND_BY

_LISTS = ("only", "keep", "split", "drop")
"""What a `cad:` entry says of parts in lists."""
OF_PARTS = [key for key in FOUND_BY if key != "frame"]
_PLACED = ("joints", "closures", "frames", "chains", "include", "tables")
"""Sections whose entries have places."""


def mentions(editor: DocumentEditor) -> Iterator[tuple[Any, Any]]:
    """Every name of a part: the list or mapping it stands in, and the index or key there."""
    for entry in section_of(editor, "cad") or ():
        for key in _LISTS:
            yield from _strings(entry, key)
    for link in (section_of(editor, "links") or {}).values():
        yield from _strings(link, "parts")
        for rule in listed((link or {}).get("collision")):
            yield from _strings(rule, "parts")
    yield from mentions_in_places(editor)


def mentions_in_places(editor: DocumentEditor) -> Iterator[tuple[Any, Any]]:
    """The same of places that are found in the CAD alone."""
    for section in _PLACED:
        entries = section_of(editor, section) or {}
        for entry in entries.values() if isinstance(entries, dict) else entries:
            for place in _mappings(entry):
                for key in OF_PARTS:
                    yield from _strings(place, key)


def section_of(editor: DocumentEditor, name: str) -> Any:
    """A section; None where there is none."""
    try:
        return editor.get(name)
    except ModelError:
        return None


def forms_of(name: str) -> set[str]:
    """How a part's name may be written."""
    return {name, glob.escape(name), pattern_of(name)}


def listed(value: Any) -> list[Any]:
    """What may be a list, one of its items, or nothing, as a list."""
    if value is None:
        return []
    return list(value) if isinstance(value, list) else [value]


def _strings(owner: Any, key: str) -> Iterator[tuple[Any, Any]]:
    """The place of a string, or of those in a list."""
    if not isinstance(owner, dict) or key not in owner:
        return
    value = owner[key]
    if isinstance(value, str):
        yield owner, key
    elif isinstance(value, list):
        yield from ((value, k) for k, one in enumerate(value) if isinstance(one, str))


def _mappings(entry: Any) -> Iterator[dict[str, Any]]:
    """An entry, and all mappings inside it."""
    if isinstance(entry, dict):
        yield entry
        for value in entry.values():
            yield from _mappings(value)
