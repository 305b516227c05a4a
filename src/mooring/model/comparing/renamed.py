"""Items that are the same under another name."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from mooring.model.definition.described import Described
from mooring.model.registry import KINDS, Kind
from mooring.model.robot.references import renamed_item

if TYPE_CHECKING:
    from mooring.model.robot import Robot

_MOST = 60
"""Of items that are gone, or new, beyond which nobody renamed them."""


def find_renamed(before: Robot, after: Robot) -> Iterator[tuple[str, str, str]]:
    """Kinds, old names and new names, links first.

    An item was renamed where the only one that is new and like it is what is gone, and, for a link
    of which there are several, where it is held by the same joint.

    Args:
        before: a copy, in which each that is found is renamed at once.
        after: the other.
    """
    found: list[tuple[str, str, str]] = [("", "", "")]
    while found:
        # What is known of one tells of those that hang on it.
        found = [
            one
            for kind in KINDS.values()
            if kind.own_names
            for one in _of_kind(kind, before, after)
        ]
        yield from found


def _of_kind(kind: Kind, before: Robot, after: Robot) -> Iterator[tuple[str, str, str]]:
    old, new = before.section(kind.name), after.section(kind.name)
    gone = [name for name in old if name not in new]
    come = [name for name in new if name not in old]
    if not gone or not come or max(len(gone), len(come)) > _MOST:
        return
    for name in gone:
        like = [other for other in come if _alike(kind, before, after, name, other)]
        if kind.name == "link" and len(like) != 1:
            like = [other for other in like if _held(before, name) == _held(after, other)] or [
                other for other in like if _hung(before, name) == _hung(after, other)
            ]
        if len(like) == 1:
            come.remove(like[0])
            before.rename(kind.name, name, like[0])
            yield kind.name, name, like[0]


def _alike(kind: Kind, before: Robot, after: Robot, name: str, other: str) -> bool:
    """Whether an item would be another one, if it were called so."""
    if kind.name == "link":
        return _says(before, name) == _says(after, other)
    item, wanted = before.section(kind.name)[name], after.section(kind.name)[other]

    def rename(what: str, called: str) -> str:
        return other if (what, called) == (kind.name, name) else called

    _, renamed = renamed_item(before, kind, name, item, rename)
    if isinstance(renamed, Described) and isinstance(wanted, Described):
        return type(renamed) is type(wanted) and _fields(renamed) == _fields(wanted)
    return bool(renamed == wanted)


def _fields(item: Described) -> dict[str, Any]:
    return {key: value for key, value in item.__dict__.items() if key != "name"}


def _says(robot: Robot, name: str) -> tuple[Any, ...]:
    """What a link is, in numbers that formats keep."""
    link = robot.links[name]
    found = robot.inertia(name)
    mass = () if found is None else (round(found.mass, 6), *found.centre.round(6).tolist())
    shown = [shape.shape.kind for shape in link.shown(robot.materials)]
    hit = [shape.shape.kind for shape in link.given_collisions]
    return mass, tuple(shown), tuple(hit), bool(link.collision_rules)


def _held(robot: Robot, name: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The joint that carries a link, and those that it carries."""
    holding = [joint.name for joint in robot.joints.values() if joint.child == name]
    carried = [joint.name for joint in robot.joints.values() if joint.parent == name]
    return tuple(holding), tuple(carried)


def _hung(robot: Robot, name: str) -> tuple[Any, ...]:
    """On which link, and where."""
    frames = robot.link_frames()
    return tuple(
        (joint.parent, *joint.at.in_link(frames[joint.parent]).round(9).ravel().tolist())
        for joint in robot.joints.values()
        if joint.child == name
    )
