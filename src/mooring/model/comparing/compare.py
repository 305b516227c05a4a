"""Everything that differs between two robots or scenes."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

import numpy as np

from mooring.arguments import proven
from mooring.geometry import Array
from mooring.model.comparing.difference import TURNED, Difference, angle_words
from mooring.model.comparing.links import link_differences
from mooring.model.comparing.renamed import find_renamed
from mooring.model.comparing.values import Sides, ValueChange, changes
from mooring.model.definition.described import Described
from mooring.model.joint import Joint
from mooring.model.registry import KINDS, Kind
from mooring.model.robot import Robot
from mooring.model.robot.copying import copied
from mooring.model.scene import Scene, lifted

_ALWAYS = ("type", "parent", "child", "at")
"""What is said of a joint that neither turns nor slides; the rest means nothing."""


@proven
def differences(before: Robot | Scene, after: Robot | Scene) -> list[Difference]:
    """Everything that differs between two robots or scenes, links first.

    Args:
        before, after: two sound trees; names tell what belongs together, and where an item is gone
            and one like it is new, that it was renamed.

    Raises:
        UnsoundRobotError: one is no tree.

    Example:
        >>> from mooring import read, demo
        >>> tender = read(demo.LINE_TENDER.document)
        >>> differences(tender, tender)
        []
    """
    one, two = lifted(before), lifted(after)
    old = copied(one.robot)
    names = list(find_renamed(old, two.robot))
    pair = _Pair(old, two.robot)
    found = [
        Difference(kind, new, "renamed", f"{kind} {was!r} is called {new!r} now", was, new)
        for kind, was, new in names
    ]
    found += pair.head("robot", old.head, two.robot.head, after=two.name)
    found += pair.head("scene", one.settings, two.settings, after=two.name)
    for kind in KINDS.values():
        found += pair.items(kind)
    return found


class _Pair:
    def __init__(self, before: Robot, after: Robot) -> None:
        self.before, self.after = before, after
        self.frames = before.link_frames(), after.link_frames()
        self.motions = {
            name: joint.motion for robot in (before, after) for name, joint in robot.joints.items()
        }

    def head(self, kind: str, one: Any, two: Any, after: str) -> Iterator[Difference]:
        for change in changes(type(one), one, two, Sides(motions=self.motions)):
            what = ".".join(map(str, change.path))
            said = "its name" if (kind, what) == ("robot", "name") else what
            text = f"{kind} {after!r}: {said} {change.words}"
            yield Difference(kind, after, what, text, change.before, change.after)

    def items(self, kind: Kind) -> Iterator[Difference]:
        old, new = self.before.section(kind.name), self.after.section(kind.name)
        yield from _added_and_removed(kind, old, new)
        for key in old:
            if key not in new:
                continue
            if kind.name == "link":
                yield from link_differences(self.before, self.after, key)
            else:
                for change in self._changes(kind, old[key], new[key]):
                    place = change.path[-1] if change.path[:1] == ("at",) else None
                    what = str(place or ".".join(map(str, change.path)) or kind.name)
                    text = f"{kind.called(key)}: {_words(kind, change)}"
                    yield Difference(
                        kind.name, _named(key), what, text, change.before, change.after
                    )

    def _changes(self, kind: Kind, one: Any, two: Any) -> Iterator[ValueChange]:
        if isinstance(one, Joint) and not (one.has_axis and two.has_axis):
            # What neither turns nor slides has no axis, limits or friction.
            one, two = (
                type(j)(name=j.name, **{field: getattr(j, field) for field in _ALWAYS})
                for j in (one, two)
            )
        sides = self._sides(one, two)
        old, new = one, two
        if isinstance(one, Described):
            old, new = one.resolved(self.before), two.resolved(self.after)
        for change in changes(kind.type, old, new, sides):
            if change.path[:1] == ("axis",):
                yield from self._axes(one, two, sides.frames)
            else:
                yield change

    def _sides(self, one: Any, two: Any) -> Sides:
        frames = None
        carriers = [c for item in (one, two) if isinstance(item, Described)
                    and (c := item.placed_on()) is not None]  # fmt: skip
        if len(carriers) == 2:
            old, new = self.frames[0].get(carriers[0]), self.frames[1].get(carriers[1])
            frames = None if old is None or new is None else (old, new)
        return Sides(frames, self.motions)

    @staticmethod
    def _axes(one: Any, two: Any, frames: tuple[Array, Array] | None) -> Iterator[ValueChange]:
        first, second = np.array(one.axis), np.array(two.axis)
        if frames is not None:
            first = one.at.in_link(frames[0])[:3, :3] @ first
            second = two.at.in_link(frames[1])[:3, :3] @ second
        angle = float(np.arctan2(np.linalg.norm(np.cross(first, second)), first @ second))
        if angle > TURNED:
            way = (
                "points the other way"
                if angle > np.pi - 1e-6
                else f"turned by {angle_words(angle)}"
            )
            yield ValueChange(("axis",), way, first.tolist(), second.tolist())


def _words(kind: Kind, change: ValueChange) -> str:
    """How a change reads."""
    *way, last = change.path or (kind.name,)
    if last in ("position", "orientation") and way == ["at"]:
        return change.words
    if change.path == ("axis",):
        return f"its axis {change.words}"
    if way == ["limits"]:
        return f"its {last} limit {change.words}"
    if kind.name == "motion" and change.path:
        number, *rest = change.path
        return " ".join([f"step {int(number) + 1}:", *map(str, rest), change.words])
    return f"{' '.join(map(str, change.path)) or last} {change.words}"


def _named(key: Any) -> str:
    return " and ".join(key) if isinstance(key, tuple) else str(key)


def _added_and_removed(
    kind: Kind, before: Mapping[Any, Any], after: Mapping[Any, Any]
) -> Iterator[Difference]:
    for key in before:
        if key not in after:
            yield Difference(kind.name, _named(key), "removed", f"{kind.called(key)} is gone")
    for key in after:
        if key not in before:
            yield Difference(kind.name, _named(key), "added", f"{kind.called(key)} is new")
