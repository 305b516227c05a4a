"""What differs between two robots, in words and numbers."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.geometry import Array
from mooring.model.fields import Motion, dimension_of
from mooring.model.joint import Joint
from mooring.units import show

if TYPE_CHECKING:
    from mooring.model.link import Link
    from mooring.model.robot import Robot

_MOVED = 1e-7
"""[m]"""
_TURNED = 1e-7
"""[rad]"""
_SAME = 1e-9
"""Relative difference of numbers."""


@dataclass(frozen=True)
class Difference:
    """One thing that is not the same.

    Attributes:
        kind: robot, link, joint, coupling, closure, spring, allowance, motor, sensor, frame,
            posture or motion.
        name: of the item.
        what: which property, or `"added"` and `"removed"`.
        message: in words, with the numbers.
        before, after: the values, as JSON takes them; None where there is none.
    """

    kind: str
    name: str
    what: str
    message: str
    before: Any = None
    after: Any = None

    def __str__(self) -> str:
        return self.message


def differences(before: Robot, after: Robot) -> list[Difference]:
    """Everything that differs between two robots, links first.

    Args:
        before, after: two sound trees; names tell what belongs together.

    Raises:
        UnsoundRobotError: one is no tree.

    Example:
        >>> from mooring import read, demo
        >>> tender = read(demo.LINE_TENDER.document)
        >>> differences(tender, tender)
        []
    """
    pair = _Pair(before, after)
    return [
        *pair.base(),
        *pair.links(),
        *pair.joints(),
        *pair.plain("coupling", before.couplings, after.couplings),
        *pair.plain("closure", before.closures, after.closures),
        *pair.plain("spring", _springs(before), _springs(after)),
        *pair.allowances(),
        *pair.plain("motor", before.motors, after.motors),
        *pair.plain("sensor", before.sensors, after.sensors),
        *pair.frames(),
        *pair.postures(),
        *pair.plain("motion", before.motions, after.motions),
    ]


class _Pair:
    def __init__(self, before: Robot, after: Robot) -> None:
        self.before, self.after = before, after
        self.frames_before, self.frames_after = before.link_frames(), after.link_frames()

    def base(self) -> Iterator[Difference]:
        one, two = self.before.base, self.after.base
        if one != two:
            text = f"the base is {two}, it was {one}"
            yield Difference("robot", self.after.name, "base", text, one, two)

    def allowances(self) -> Iterator[Difference]:
        pairs = ({f"{a} and {b}": why for (a, b), why in robot.allowances.items()}
                 for robot in (self.before, self.after))  # fmt: skip
        yield from _added_and_removed("allowance", *pairs)

    def links(self) -> Iterator[Difference]:
        yield from _added_and_removed("link", self.before.links, self.after.links)
        for name in self.before.links:
            if name in self.after.links:
                yield from self._link(name)

    def _link(self, name: str) -> Iterator[Difference]:
        old = self.before.inertia(name, self.frames_before[name])
        new = self.after.inertia(name, self.frames_after[name])
        what = f"link {name!r}"
        if old is None or new is None:
            if (old is None) != (new is None):
                words = "has a mass now" if old is None else "has no mass any more"
                yield Difference("link", name, "mass", f"{what} {words}")
            return
        if _differ(old.mass, new.mass):
            share = 100 * (new.mass / old.mass - 1) if old.mass else float("inf")
            yield Difference(
                "link", name, "mass",
                f"{what}: {show(old.mass, 'mass')} -> {show(new.mass, 'mass')} ({share:+.2g}%)",
                old.mass, new.mass,
            )  # fmt: skip
        moved = float(np.linalg.norm(new.centre - old.centre))
        if moved > _MOVED:
            yield Difference(
                "link", name, "centre", f"{what}: its centre of mass moved by {_length(moved)}",
                old.centre.tolist(), new.centre.tolist(),
            )  # fmt: skip
        scale = max(float(np.abs(old.tensor).max()), float(np.abs(new.tensor).max()), 1e-30)
        off = float(np.abs(new.tensor - old.tensor).max()) / scale
        # With the mass its inertia changes as well: that is no news.
        expected = abs(new.mass / old.mass - 1) if old.mass else 0.0
        if off > max(1e-7, 1.001 * expected):
            yield Difference(
                "link", name, "inertia",
                f"{what}: its inertia differs by up to {100 * off:.2g}% of the largest moment",
                old.tensor.tolist(), new.tensor.tolist(),
            )  # fmt: skip
        if old.source != new.source:
            yield Difference(
                "link", name, "source", f"{what}: its mass is {new.source}, it was {old.source}",
                old.source, new.source,
            )  # fmt: skip
        links = self.before.links[name], self.after.links[name]
        if _collision_words(links[0]) == _collision_words(links[1]):
            return
        one, two = ([shape.shape.kind for shape in link.collisions] for link in links)
        if one != two:
            yield Difference(
                "link", name, "collision", f"{what}: collides as {_list(two)}, it was {_list(one)}",
                one, two,
            )  # fmt: skip

    def joints(self) -> Iterator[Difference]:
        yield from _added_and_removed("joint", self.before.joints, self.after.joints)
        for name, old in self.before.joints.items():
            if name in self.after.joints:
                yield from self._joint(old, self.after.joints[name])

    def _joint(self, old: Joint, new: Joint) -> Iterator[Difference]:
        what, name = f"joint {old.name!r}", old.name
        for key in ("type", "parent", "child"):
            one, two = getattr(old, key), getattr(new, key)
            if one != two:
                yield Difference("joint", name, key, f"{what}: {key} {one} -> {two}", one, two)
        places = [
            joint.at.in_link(frames[joint.parent])
            for joint, frames in ((old, self.frames_before), (new, self.frames_after))
        ]
        yield from _place("joint", name, what, *places)
        if old.has_axis and new.has_axis:
            first, second = (
                place[:3, :3] @ np.array(j.axis)
                for place, j in zip(places, (old, new), strict=True)
            )
            angle = float(np.arctan2(np.linalg.norm(np.cross(first, second)), first @ second))
            if angle > _TURNED:
                words = (
                    "points the other way" if angle > np.pi - 1e-6 else f"turned by {_angle(angle)}"
                )
                yield Difference(
                    "joint", name, "axis", f"{what}: its axis {words}",
                    first.tolist(), second.tolist(),
                )  # fmt: skip
        if old.motion == new.motion:
            for key in ("lower", "upper", "velocity", "effort"):
                one, two = getattr(old.limits, key), getattr(new.limits, key)
                quantity = "position" if key in ("lower", "upper") else key
                words = f"its {key} limit"
                yield from _number("joint", name, key, what, words, one, two, old.motion, quantity)
        one, two = old.limits.soft, new.limits.soft
        if one != two:
            yield Difference("joint", name, "soft", f"{what}: its soft limits differ")
        for key in ("damping", "friction", "stiffness", "rest", "rotor_inertia"):
            one, two = getattr(old, key), getattr(new, key)
            if _differ(one, two):
                text = f"{what}: {key} {one:g} -> {two:g} in SI"
                yield Difference("joint", name, key, text, one, two)

    def frames(self) -> Iterator[Difference]:
        yield from _added_and_removed("frame", self.before.frames, self.after.frames)
        for name, old in self.before.frames.items():
            new = self.after.frames.get(name)
            if new is None:
                continue
            what = f"frame {name!r}"
            for key in ("link", "role"):
                one, two = getattr(old, key), getattr(new, key)
                if one != two:
                    yield Difference("frame", name, key, f"{what}: {key} {one} -> {two}", one, two)
            places = (
                old.at.in_link(self.frames_before[old.link]),
                new.at.in_link(self.frames_after[new.link]),
            )
            yield from _place("frame", name, what, *places)

    def postures(self) -> Iterator[Difference]:
        before, after = self.before.postures, self.after.postures
        yield from _added_and_removed("posture", before, after)
        for name in before.keys() & after.keys():
            for joint in {**before[name], **after[name]}:
                one, two = (p[name].get(joint, 0.0) for p in (before, after))
                if _differ(one, two):
                    known = self.before.joints.get(joint) or self.after.joints.get(joint)
                    motion: Motion = "rotation" if known is None else known.motion
                    kind = dimension_of("position", motion)
                    text = f"{show(one, kind)} -> {show(two, kind)}"
                    yield Difference(
                        "posture", name, joint, f"posture {name!r}: {joint} {text}", one, two
                    )

    def plain(
        self, kind: str, before: Mapping[str, Any], after: Mapping[str, Any]
    ) -> Iterator[Difference]:
        """Items whose properties are compared as they are written."""
        yield from _added_and_removed(kind, before, after)
        for name in before:
            if name in after:
                one, two = _written(before[name]), _written(after[name])
                for key in one:
                    if key != "at" and _unlike(one[key], two.get(key)):
                        text = f"{kind} {name!r}: {key} {_said(one[key])} -> {_said(two.get(key))}"
                        if kind == "motor" and isinstance(one[key], float):
                            text += " in SI"
                        yield Difference(kind, name, key, text, one[key], two.get(key))


def _springs(robot: Robot) -> dict[str, Any]:
    """With their rest lengths, also where these follow from the geometry."""
    lengths = robot.tree().springs.length
    return {
        name: spring.model_copy(update={"rest_length": float(length)})
        for (name, spring), length in zip(robot.springs.items(), lengths, strict=True)
    }


def _collision_words(link: Link) -> tuple[Any, ...]:
    """What was said of its collision; where that is the same, fitting shapes can be spared."""
    given = [repr(placed.shape) for placed in link.given_collisions]
    return link.collision_rules or (), given


def _written(item: Any) -> dict[str, Any]:
    if isinstance(item, tuple):
        return {"steps": [step.model_dump() for step in item]}
    values: dict[str, Any] = item.model_dump(exclude={"at"})
    return values


def _unlike(one: Any, two: Any) -> bool:
    if isinstance(one, float) and isinstance(two, float):
        return _differ(one, two)
    return bool(one != two)


def _said(value: Any) -> str:
    if isinstance(value, float):
        return f"{value:g}"
    if isinstance(value, list) and len(str(value)) > 60:
        return f"{len(value)} steps"
    return str(value)


def _added_and_removed(
    kind: str, before: Mapping[str, Any], after: Mapping[str, Any]
) -> Iterator[Difference]:
    for name in before:
        if name not in after:
            yield Difference(kind, name, "removed", f"{kind} {name!r} is gone")
    for name in after:
        if name not in before:
            yield Difference(kind, name, "added", f"{kind} {name!r} is new")


def _place(kind: str, name: str, what: str, old: Array, new: Array) -> Iterator[Difference]:
    moved = float(np.linalg.norm(new[:3, 3] - old[:3, 3]))
    if moved > _MOVED:
        by = ", ".join(f"{1000 * v + 0.0:.4g}" for v in np.round(new[:3, 3] - old[:3, 3], 9))
        yield Difference(
            kind, name, "position", f"{what}: moved by {_length(moved)} ({by} mm)",
            old[:3, 3].tolist(), new[:3, 3].tolist(),
        )  # fmt: skip
    between = old[:3, :3].T @ new[:3, :3]
    sine = np.linalg.norm(between - between.T) / (2 * np.sqrt(2))
    angle = float(np.arctan2(sine, (np.trace(between) - 1) / 2))
    if angle > _TURNED:
        yield Difference(
            kind, name, "orientation", f"{what}: its frame turned by {_angle(angle)}",
            old[:3, :3].tolist(), new[:3, :3].tolist(),
        )  # fmt: skip


def _number(
    kind: str, name: str, key: str, what: str, words: str, one: float | None, two: float | None,
    motion: Motion, quantity: str,
) -> Iterator[Difference]:  # fmt: skip
    if (one is None) != (two is None) or (one is not None and _differ(one, two or 0.0)):
        dimension = dimension_of(quantity, motion)

        def said(value: float | None) -> str:
            return "none" if value is None else show(value, dimension)

        yield Difference(kind, name, key, f"{what}: {words} {said(one)} -> {said(two)}", one, two)


def _differ(one: float, two: float) -> bool:
    return abs(one - two) > _SAME * max(abs(one), abs(two), 1e-6)


def _length(value: float) -> str:
    return show(value, "length", 3) if value >= 1e-6 else f"{1e6 * value:.2g} µm"


def _angle(value: float) -> str:
    return show(value, "angle", 3)


def _list(kinds: list[str]) -> str:
    return ", ".join(kinds) if kinds else "nothing"
