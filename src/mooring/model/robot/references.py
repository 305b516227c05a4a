"""What refers to what in a robot: names that are not there, what depends on an item, new names."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from fnmatch import fnmatchcase
from typing import TYPE_CHECKING, Any, NamedTuple

from mooring.errors import Problem, did_you_mean
from mooring.model.definition.described import Described
from mooring.model.definition.markers import Coordinate, ItemPattern, Pattern, Ref
from mooring.model.definition.walking import DESCEND, DROP, Change, Path, rebuilt, spots
from mooring.model.registry import BY_SECTION, KINDS, Kind

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot

Item = tuple[str, Any]
"""A kind and a name."""
Rename = Callable[[str, str], str]
"""From a kind and a name of it to the new name."""


class Reference(NamedTuple):
    """A name of another item, in an item.

    Attributes:
        path: to it, inside the item.
        kind: of the item that it names.
        name: the item that it names.
        ref: what its type says of it.
    """

    path: Path
    kind: str
    name: str
    ref: Ref


def target_kind(robot: Robot, ref: Ref, name: str) -> str:
    """Which kind of item a name means."""
    return next((k for k in ref.kinds if name in robot.section(k)), ref.kinds[0])


def references(robot: Robot, kind: Kind, key: Any, item: Any) -> Iterator[Reference]:
    """The names of other items in an item, its key among them where that is one."""
    for path, marker, name, _ in [*spots(kind.key, key), *spots(kind.type, item)]:
        if isinstance(marker, Ref):
            yield Reference(path, target_kind(robot, marker, name), name, marker)


def problems_of_item(robot: Robot, kind: Kind, key: Any, item: Any) -> Iterator[Problem]:
    """Names in an item that nothing has, and what else does not fit."""
    found = [replace(problem, path=()) for problem in problems_inside(robot, kind.key, key)]
    found += problems_inside(robot, kind.type, item)
    yield from dict.fromkeys(found)
    if not found and isinstance(item, Described):
        yield from item.unfit(robot)


def problems_inside(robot: Robot, hint: Any, value: Any) -> Iterator[Problem]:
    """Names in a value that nothing has, or that are of what does not move.

    Args:
        robot: that it is to be part of.
        hint: the value's type.
        value: a definition, or what a field holds.
    """
    for path, ref, name, _ in spots(hint, value):
        if not isinstance(ref, Ref):
            continue
        known = robot.section(target_kind(robot, ref, name))
        if name not in known:
            if not ref.may_dangle and name not in ref.common:
                yield _unknown(ref, name, path, known)
        elif ref.moving and not known[name].has_axis:
            yield Problem(f"joint {name!r} is {known[name].type} and has no position", path)


def _unknown(ref: Ref, name: str, path: Path, known: Mapping[str, Any]) -> Problem:
    kind = ref.kinds[0]
    hint = did_you_mean(name, [*known, *ref.common])
    text = f"no {kind} is called {name!r}{hint}"
    return Problem(text, path, "unknown-name", (kind, name))


def dependents(robot: Robot, item: Item) -> Iterator[tuple[Item, Reference]]:
    """What refers to an item, each with the reference."""
    for kind in KINDS.values():
        for key, other in robot.section(kind.name).items():
            for reference in references(robot, kind, key, other):
                if (reference.kind, reference.name) == item:
                    yield (kind.name, key), reference


def renamed_inside(robot: Robot, rename: Rename) -> Change:
    """The change that gives names inside a value their new form."""

    def change(marker: Any, value: Any) -> Any:
        if isinstance(marker, Ref):
            kind = target_kind(robot, marker, value)
            return rename(kind, value) if value in robot.section(kind) else value
        if isinstance(marker, Pattern):
            return rename(marker.kind, value) if value in robot.section(marker.kind) else value
        if isinstance(marker, Coordinate):
            joint, dot, end = _split(robot, value)
            return f"{rename('joint', joint)}{dot}{end}"
        if isinstance(marker, ItemPattern):
            return renamed_path(value, rename)
        return DESCEND

    return change


def renamed_path(pattern: str, rename: Rename) -> str:
    """A path to an item, such as `joints.slew.limits`, with a new name in it."""
    section, dot, rest = pattern.partition(".")
    if not dot or section not in BY_SECTION:
        return pattern
    kind = BY_SECTION[section]
    # Names may hold points themselves: the longest that is renamed counts.
    parts = rest.split(".")
    for length in range(len(parts), 0, -1):
        name = ".".join(parts[:length])
        new = rename(kind.name, name)
        if new != name:
            return ".".join([section, new, *parts[length:]])
    return pattern


def without_entries(robot: Robot, gone: set[Item]) -> Change:
    """The change that drops entries whose names are gone, where the rest does without them."""

    def change(marker: Any, value: Any) -> Any:
        if isinstance(marker, Ref) and marker.lost == "entry":
            return DROP if (target_kind(robot, marker, value), value) in gone else value
        if isinstance(marker, Coordinate):
            return DROP if ("joint", _split(robot, value)[0]) in gone else value
        return DESCEND

    return change


def _split(robot: Robot, coordinate: str) -> tuple[str, str, str]:
    """The joint of a coordinate, and which of its coordinates it is."""
    if coordinate in robot.joints:
        return coordinate, "", ""
    joint, dot, end = coordinate.rpartition(".")
    return (joint, dot, end) if joint in robot.joints else (coordinate, "", "")


def renamed_item(robot: Robot, kind: Kind, key: Any, item: Any, rename: Rename) -> Item:
    """An item with other names in it: its new key, and what it would be."""
    change = renamed_inside(robot, rename)
    new_key: Any
    if kind.own_names:
        new_key = rename(kind.name, key)
    else:
        new_key = rebuilt(kind.key, key, change)
        new_key = tuple(sorted(new_key)) if isinstance(new_key, tuple) else new_key
    return new_key, rebuilt(kind.type, item, change)


def matching(robot: Robot, kind: str, pattern: str) -> list[str]:
    """The names of a kind that match a pattern, as in the shell."""
    return [name for name in robot.section(kind) if fnmatchcase(name, pattern)]
