"""Names of items in a document as it is written, found by the types of its entries."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from mooring.formats.document.sections import SECTIONS, DocumentSection, Field
from mooring.model.definition.markers import Coordinate, ItemPattern, Pattern, Ref
from mooring.model.definition.walking import Path, Spot, fields_of, spots
from mooring.model.registry import BY_SECTION


def written_names(document: Mapping[str, Any]) -> Iterator[Spot]:
    """Every name or pattern of items in a document, each once, with the path to it."""
    seen = set()
    for section in SECTIONS.values():
        for spot in _in_section(section, document.get(section.key)):
            named = isinstance(spot.marker, Ref | Pattern | ItemPattern | Coordinate)
            if named and isinstance(spot.value, str) and (spot.path, spot.is_key) not in seen:
                seen.add((spot.path, spot.is_key))
                yield spot


def _in_section(section: DocumentSection, entries: Any) -> Iterator[Spot]:
    if section.form == "whole":
        yield from _in_entry(section, entries, (section.key,))
        return
    numbered = enumerate(entries) if isinstance(entries, list) else ()
    for key, entry in entries.items() if isinstance(entries, Mapping) else numbered:
        path = (section.key, key)
        kind = BY_SECTION.get(section.key)
        if section.form == "pattern":
            yield Spot(path, Pattern(section.of), key, is_key=True)
        elif kind is not None and not kind.own_names:
            yield from spots(kind.key, key, path, is_key=True)
        yield from _in_entry(section, entry, path)


def _in_entry(section: DocumentSection, entry: Any, path: Path) -> Iterator[Spot]:
    for hint in section.entries:
        whole = isinstance(hint, Field)
        yield from spots(fields_of(hint.definition)[hint.name] if whole else hint, entry, path)
