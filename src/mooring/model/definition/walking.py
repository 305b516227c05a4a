"""Going through values by their types: what stands where, and the same with something changed."""

from __future__ import annotations

import dataclasses
import types
from collections.abc import Callable, Iterator, Mapping
from functools import cache
from typing import Annotated, Any, NamedTuple, Union, get_args, get_origin, get_type_hints

from pydantic import BaseModel

from mooring.model.definition.markers import Marker

Path = tuple[str | int, ...]
DESCEND = object()
"""What a change answers that has nothing to say of a value: what is inside it is asked for."""
DROP = object()
"""What a change answers where an entry is to go, or a field is to hold nothing."""
Change = Callable[[Any, Any], Any]
"""Told a marker, or the class of a definition, and the value; answers another value, DESCEND, or
DROP."""


class Fields:
    """What dataclasses are whose fields are gone through like those of a definition."""

    __slots__ = ()


class Spot(NamedTuple):
    """A marked value inside another.

    Attributes:
        path: keys on the way to it.
        marker: what its type says.
        value: it.
        is_key: whether it is the last key of the path itself, and not what stands there.
    """

    path: Path
    marker: Marker
    value: Any
    is_key: bool = False


@cache
def fields_of(kind: Any) -> Mapping[str, Any]:
    """The types of the fields that a user gives of a definition, with their markers, by name."""
    hints = get_type_hints(kind, include_extras=True)
    if issubclass(kind, BaseModel):
        return {name: hints[name] for name, f in kind.model_fields.items() if not f.exclude}
    return {field.name: hints[field.name] for field in dataclasses.fields(kind)}


def has_fields(value: Any) -> bool:
    """Whether a value has fields that are gone through."""
    return isinstance(value, BaseModel | Fields)


def spots(hint: Any, value: Any, path: Path = (), is_key: bool = False) -> Iterator[Spot]:
    """Everything marked inside a value.

    Args:
        hint: the value's type.
        value: a definition, what a field holds, or what a document has for one that is not read
            yet, in which of several types all count that might be meant.
        path: to the value.
        is_key: whether it is the last key of the path.
    """
    if value is None:
        return
    origin = get_origin(hint)
    if origin is Annotated:
        base, *extras = get_args(hint)
        for extra in extras:
            if isinstance(extra, Marker):
                yield Spot(path, extra, value, is_key)
        yield from spots(base, value, path, is_key)
    elif origin in (Union, types.UnionType):
        read = not isinstance(value, str | Mapping | list)
        choices = [alternative(hint, value)] if read else get_args(hint)
        for choice in choices:
            if not isinstance(value, str) or _is_text(choice):
                yield from spots(choice, value, path, is_key)
    elif origin in (tuple, list) and isinstance(value, (tuple, list)):
        for number, (inner, item) in enumerate(_items(hint, value)):
            yield from spots(inner, item, (*path, number))
    elif origin is dict and isinstance(value, Mapping):
        keys, values = get_args(hint)
        for key, item in value.items():
            yield from spots(keys, key, (*path, key), is_key=True)
            yield from spots(values, item, (*path, key))
    elif has_fields(value):
        for name, inner in fields_of(value.__class__).items():
            yield from spots(inner, getattr(value, name), (*path, name))
    elif isinstance(value, Mapping) and isinstance(hint, type) and issubclass(hint, BaseModel):
        for name, inner in fields_of(hint).items():
            yield from spots(inner, value.get(name), (*path, name))


def _is_text(hint: Any) -> bool:
    return hint is str or (get_origin(hint) is Annotated and get_args(hint)[0] is str)


def rebuilt(hint: Any, value: Any, change: Change) -> Any:
    """The same value with something changed; the value itself where nothing is.

    Args:
        hint: the value's type.
        value: a definition, or what a field holds.
        change: see `Change`.
    """
    if value is None:
        return None
    origin = get_origin(hint)
    if origin is Annotated:
        base, *extras = get_args(hint)
        for extra in extras:
            if isinstance(extra, Marker):
                new = change(extra, value)
                if new is not DESCEND:
                    return new
        return rebuilt(base, value, change)
    if origin in (Union, types.UnionType):
        return rebuilt(alternative(hint, value), value, change)
    if origin in (tuple, list):
        found = [rebuilt(inner, item, change) for inner, item in _items(hint, value)]
        if all(new is old for new, old in zip(found, value, strict=True)):
            return value
        return type(value)(item for item in found if item is not DROP)
    if origin is dict:
        keys, values = get_args(hint)
        pairs = [(rebuilt(keys, k, change), rebuilt(values, v, change)) for k, v in value.items()]
        if all(k is a and v is b for (k, v), (a, b) in zip(pairs, value.items(), strict=True)):
            return value
        return type(value)({k: v for k, v in pairs if k is not DROP and v is not DROP})
    if not has_fields(value):
        return value
    new = change(type(value), value)
    if new is not DESCEND:
        return new
    return with_fields_rebuilt(value, change)


def with_fields_rebuilt(value: Any, change: Change) -> Any:
    """A definition with what its fields hold rebuilt."""
    update = {}
    for name, inner in fields_of(value.__class__).items():
        old = getattr(value, name)
        new = rebuilt(inner, old, change)
        if new is not old:
            update[name] = None if new is DROP else new
    if not update:
        return value
    if isinstance(value, BaseModel):
        return value.model_copy(update=update)
    return dataclasses.replace(value, **update)


def alternative(hint: Any, value: Any) -> Any:
    """Which type of a union a value has."""
    choices = [choice for choice in get_args(hint) if choice is not type(None)]
    if len(choices) == 1:
        return choices[0]
    for choice in choices:
        base = get_args(choice)[0] if get_origin(choice) is Annotated else choice
        kind = get_origin(base) or base
        if kind in (Union, types.UnionType):
            return alternative(base, value)
        if isinstance(kind, type) and isinstance(value, kind):
            return choice
    return choices[0]


def _items(hint: Any, value: Any) -> list[tuple[Any, Any]]:
    inner = get_args(hint)
    if len(inner) == 1 or (len(inner) == 2 and inner[1] is Ellipsis):
        return [(inner[0], item) for item in value]
    # A document may have more or fewer than there should be: that is told where it is read.
    return list(zip(inner, value, strict=False))
