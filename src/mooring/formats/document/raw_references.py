"""Names of items in a document as it is written, found by the types of its entries."""

from __future__ import annotations

import types
from collections.abc import Iterator, Mapping
from typing import Annotated, Any, NamedTuple, Union, get_args, get_origin

from pydantic import BaseModel

from mooring.formats.document.sections import SECTIONS, DocumentSection, Field
from mooring.model.definition.markers import Coordinate, ItemPattern, Marker, Pattern, Ref
from mooring.model.definition.walking import fields_of
from mooring.model.registry import BY_SECTION


class Written(NamedTuple):
    """A name where it is written.

    Attributes:
        owner: the mapping or list.
        key: in it.
        is_key: whether the name is the key itself, and not what stands there.
        marker: what the type says of it.
        path: to it, for messages.
    """

    owner: Any
    key: Any
    is_key: bool
    marker: Marker
    path: tuple[str | int, ...]


def written_references(document: Mapping[str, Any]) -> Iterator[Written]:
    """Every name of an item in a document, where it is written."""
    for section in SECTIONS.values():
        entries = document.get(section.key)
        if entries is None:
            continue
        if section.form == "whole":
            for entry in section.entries:
                hint = (
                    fields_of(entry.definition)[entry.name] if isinstance(entry, Field) else entry
                )
                yield from _found(hint, document, section.key, (section.key,))
        elif section.form == "list" and isinstance(entries, list):
            for number in range(len(entries)):
                yield from _entry(section, entries, number)
        elif isinstance(entries, Mapping):
            for key in list(entries):
                yield from _key(section, entries, key)
                yield from _entry(section, entries, key)


def _entry(section: DocumentSection, entries: Any, key: Any) -> Iterator[Written]:
    seen = set()
    for hint in section.entries:
        for found in _found(hint, entries, key, (section.key, key)):
            mark = (id(found.owner), found.key, found.is_key)
            if mark not in seen:
                seen.add(mark)
                yield found


def _key(section: DocumentSection, entries: Any, key: Any) -> Iterator[Written]:
    """The key of an entry, where that is the name of something else."""
    kind = BY_SECTION.get(section.key)
    if section.form == "pattern":
        yield Written(entries, key, True, Pattern("link"), (section.key, key))
    elif kind is not None and not kind.own_names:
        yield from _marked(kind.key, entries, key, True, (section.key, key))


def _marked(
    hint: Any, owner: Any, key: Any, is_key: bool, path: tuple[str | int, ...]
) -> Iterator[Written]:
    for marker in getattr(hint, "__metadata__", ()):
        if isinstance(marker, Ref | Pattern | ItemPattern | Coordinate):
            yield Written(owner, key, is_key, marker, path)


def _found(hint: Any, owner: Any, key: Any, path: tuple[str | int, ...]) -> Iterator[Written]:
    """Names in what stands under a key, of which only the type is known."""
    node = owner[key]
    if node is None:
        return
    origin = get_origin(hint)
    if origin is Annotated:
        base = get_args(hint)[0]
        if isinstance(node, str):
            yield from _marked(hint, owner, key, False, path)
        yield from _found(base, owner, key, path)
    elif origin in (Union, types.UnionType):
        for choice in get_args(hint):
            if choice is not type(None):
                yield from _found(choice, owner, key, path)
    elif origin in (tuple, list):
        if isinstance(node, list):
            inner = get_args(hint)
            for number in range(len(node)):
                kind = inner[0] if len(inner) == 1 or inner[-1] is Ellipsis else (
                    inner[min(number, len(inner) - 1)]
                )  # fmt: skip
                yield from _found(kind, node, number, (*path, number))
    elif origin is dict:
        if isinstance(node, Mapping):
            names, values = get_args(hint)
            for name in list(node):
                yield from _marked(names, node, name, True, (*path, name))
                yield from _found(values, node, name, (*path, name))
    elif isinstance(hint, type) and issubclass(hint, BaseModel) and isinstance(node, Mapping):
        for name, inner in fields_of(hint).items():
            if name in node:
                yield from _found(inner, node, name, (*path, name))
