"""In what twins are not each other's mirror image."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from operator import attrgetter
from typing import Any

import numpy as np

from mooring.checks.twins.find import Mirror, way_of
from mooring.geometry import Array
from mooring.model import Inertia, Joint, Robot
from mooring.model.definition.fields import dimension_of
from mooring.units import show

_SAME = 1e-3
_TURNED = float(np.cos(np.radians(2)))
_MASS = 0.01
_TENSOR = 0.05
Ends = tuple[float, float]


@dataclass(frozen=True)
class Unlike:
    """Something in which two twins differ.

    Attributes:
        item: of the two the one that is more likely wrong, with what is.
        twin: the other's name.
        words: what differs.
    """

    item: tuple[str, ...]
    twin: str
    words: str


@dataclass(frozen=True)
class _Sided:
    """A pair of joints, and how the right one turns against the left one's image."""

    left: Joint
    right: Joint
    sense: int
    across: bool
    copied: bool


def unlike_joints(
    robot: Robot, pairs: list[tuple[str, str]], places: Mapping[str, Array], mirror: Mirror
) -> Iterator[Unlike]:
    """Pairs of joints that are no mirror images, by place, axis or limits."""
    sided = []
    for left_name, right_name in pairs:
        left, right = robot.joints[left_name], robot.joints[right_name]
        if left.type != right.type:
            words = f"it is {right.type}, and {left_name} is {left.type}"
            yield Unlike(("joints", right_name, "type"), left_name, words)
            continue
        # The same thing twice, and not its mirror image, such as two equal hands, is well.
        copied = left.parent != right.parent and _copied(left, right)
        off = mirror.image(way_of(left, places)) - way_of(right, places)
        if np.linalg.norm(off) > mirror.near and not copied:
            yield _misplaced(robot, left, right, mirror, float(np.linalg.norm(off)))
        if not left.has_axis:
            continue
        axes = [places[j.child][:3, :3] @ np.array(j.axis) for j in (left, right)]
        image = mirror.image(axes[0]) * (-1 if left.motion == "rotation" else 1)
        cosine = float(image @ axes[1])
        if abs(cosine) >= _TURNED:
            across = abs(float(axes[0][mirror.axis])) > 0.5
            sided.append(_Sided(left, right, 1 if cosine > 0 else -1, across, copied))
        elif not copied:
            angle = show(float(np.arccos(min(1.0, abs(cosine)))), "angle", 3)
            words = f"its axis is {angle} off the mirror image of {left_name}'s"
            yield Unlike(("joints", right_name, "axis"), left_name, words)
    for pair in sided:
        yield from _unlike_ranges(robot, pair, sided)


def _copied(left: Joint, right: Joint) -> bool:
    return (
        bool(np.allclose(left.at.matrix, right.at.matrix, atol=1e-6))
        and bool(np.allclose(left.axis, right.axis, atol=1e-6))
        and (left.limits.lower, left.limits.upper) == (right.limits.lower, right.limits.upper)
    )


def _misplaced(robot: Robot, left: Joint, right: Joint, mirror: Mirror, off: float) -> Unlike:
    odd, twin = _odd(robot, left, right, lambda j: float(np.linalg.norm(j.at.matrix[:3, 3])))
    return Unlike(
        ("joints", odd, "at"), twin,
        f"it is {show(off, 'length', 3)} away from the mirror image of {twin} across "
        f"{'xyz'[mirror.axis]}",
    )  # fmt: skip


def _unlike_ranges(robot: Robot, pair: _Sided, others: list[_Sided]) -> Iterator[Unlike]:
    left, right = pair.left, pair.right
    ends = [(j.limits.lower, j.limits.upper) for j in (left, right)]
    known = [(low, high) for low, high in ends if low is not None and high is not None]
    if len(known) < 2 or left.endless:
        yield from _against_the_others(robot, pair, others)
    elif not pair.copied:
        as_it_is, turned = (
            _same(_turned(known[0], sense), known[1]) for sense in (pair.sense, -pair.sense)
        )
        if as_it_is and turned:
            yield from _against_the_others(robot, pair, others)
        elif turned:
            odd, twin = _odd(robot, left, right, _axis)
            words = (
                f"its axis points the other way than the mirror image of {twin}'s, and the limits "
                "are as if it did not"
            )
            yield Unlike(("joints", odd, "axis"), twin, words)
        elif not as_it_is:
            yield _unlike_limits(robot, pair, known)
    for key in ("effort", "velocity"):
        one, two = (getattr(j.limits, key) for j in (left, right))
        if one is None or two is None or abs(one - two) <= _MASS * max(abs(one), abs(two)):
            continue
        odd, twin = _odd(robot, left, right, attrgetter(f"limits.{key}"))
        has, would = (getattr(robot.joints[name].limits, key) for name in (odd, twin))
        words = f"its {key} limit is {has:g}, and that of its twin {twin} is {would:g}"
        yield Unlike(("joints", odd, "limits", key), twin, words)


def _unlike_limits(robot: Robot, pair: _Sided, known: list[Ends]) -> Unlike:
    odd, twin = _odd(robot, pair.left, pair.right, lambda j: (j.limits.lower, j.limits.upper))
    has, other = known if odd == pair.left.name else known[::-1]
    dimension = dimension_of("position", pair.left.motion)
    said, would = (
        " to ".join(show(value, dimension, 4) for value in one)
        for one in (has, _turned(other, pair.sense))
    )
    words = f"it goes from {said}; by its twin {twin} it would be {would}"
    return Unlike(("joints", odd, "limits"), twin, words)


def _against_the_others(robot: Robot, pair: _Sided, others: list[_Sided]) -> Iterator[Unlike]:
    """An axis that limits tell nothing about: all other pairs that stand like it go by one way."""
    alike = [
        other
        for other in others
        if other is not pair
        and other.across == pair.across
        and other.left.motion == pair.left.motion
    ]
    if not alike or any(one.sense == pair.sense for one in alike):
        return
    odd, twin = _odd(robot, pair.left, pair.right, _axis)
    times = Counter(_key(_axis(joint)) for joint in robot.joints.values())
    if (
        len(alike) == 1
        and times[_key(_axis(robot.joints[odd]))] >= times[_key(_axis(robot.joints[twin]))]
    ):
        # Either of the two pairs may be the wrong one.
        return
    rest = "pair" if len(alike) == 1 else f"{len(alike)} pairs"
    words = (
        f"its axis points the other way than the mirror image of {twin}'s; in the other {rest} it "
        "is not so"
    )
    yield Unlike(("joints", odd, "axis"), twin, words)


def _axis(joint: Joint) -> tuple[float, ...]:
    return tuple(joint.axis)


def unlike_links(
    pairs: list[tuple[str, str]],
    inertias: dict[str, Inertia | None],
) -> Iterator[Unlike]:
    """Pairs of links that weigh differently."""
    for left, right in pairs:
        one, two = inertias.get(left), inertias.get(right)
        if one is None or two is None:
            if (one is None) != (two is None):
                odd, twin = (left, right) if one is None else (right, left)
                yield Unlike(
                    ("links", odd, "mass"), twin, f"it has no mass, and its twin {twin} has"
                )
            continue
        if abs(one.mass - two.mass) > _MASS * max(one.mass, two.mass):
            masses = Counter(round(i.mass, 9) for i in inertias.values() if i is not None)
            rarer = masses[round(one.mass, 9)] < masses[round(two.mass, 9)]
            odd, twin = (left, right) if rarer else (right, left)
            said = {left: one.mass, right: two.mass}
            yield Unlike(
                ("links", odd, "mass"), twin,
                f"it weighs {show(said[odd], 'mass', 4)}, and its twin {twin} "
                f"{show(said[twin], 'mass', 4)}",
            )  # fmt: skip
            continue
        moments = [np.asarray(np.linalg.eigvalsh(i.tensor)) for i in (one, two)]
        scale = max(float(np.abs(moments).max()), 1e-30)
        if float(np.abs(moments[0] - moments[1]).max()) > _TENSOR * scale:
            yield Unlike(
                ("links", right, "inertia"), left,
                f"its principal moments are {_listed(moments[1])} kg m^2, and those of its twin "
                f"{left} are {_listed(moments[0])}",
            )  # fmt: skip


def _odd(robot: Robot, left: Joint, right: Joint, read: Callable[[Joint], Any]) -> tuple[str, str]:
    """Of two joints the one with the rarer value, and the other."""
    seen = Counter(_key(read(joint)) for joint in robot.joints.values())
    if seen[_key(read(left))] < seen[_key(read(right))]:
        return left.name, right.name
    return right.name, left.name


def _key(value: Any) -> tuple[float, ...] | float | None:
    if isinstance(value, tuple):
        numbers = [round(float(v), 6) + 0.0 for v in value if v is not None]
        return tuple(numbers)
    return None if value is None else round(float(value), 9)


def _turned(ends: Ends, sense: int) -> Ends:
    return ends if sense > 0 else (-ends[1], -ends[0])


def _same(one: Ends, two: Ends) -> bool:
    width = max(abs(one[1] - one[0]), abs(two[1] - two[0]), 1e-9)
    return max(abs(a - b) for a, b in zip(one, two, strict=True)) < _SAME * max(width, 1.0)


def _listed(values: Array) -> str:
    return ", ".join(f"{v:.3g}" for v in values)
