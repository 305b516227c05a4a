"""The travel of proposed joints, from what their links meet."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace

import numpy as np

from mooring.cad.part import Part
from mooring.cad.proposing.proposal import ProposedJoint
from mooring.cad.proposing.travel import Stop, free_travel
from mooring.cad.touching.lines import Line
from mooring.units import show

_LEAST = {"angle": np.radians(3.0), "length": 1e-3}
"""Less travel in all is none: what meets at once is a matter of how it was drawn."""


def with_travel(
    joints: Iterable[ProposedJoint],
    links: dict[str, list[Part]],
    meshing: Iterable[tuple[str, str]],
    near: float,
) -> Iterator[ProposedJoint]:
    """The joints with the travel that the geometry shows.

    All other joints stand where the CAD has them. What turns in a loop is left as it is, since all
    of the loop moves with it.

    Args:
        joints: of the tree and closures.
        links: the parts of each link.
        meshing: pairs of links that touch as gears do.
        near: how far surfaces may be off that touch [m].
    """
    every = list(joints)
    closures = [joint for joint in every if joint.closes]
    for joint in every:
        if joint.closes or joint.kind not in ("revolute", "prismatic"):
            yield joint
            continue
        moving = _beyond(every, joint.child)
        if any((c.parent in moving) != (c.child in moving) for c in closures):
            yield joint
            continue
        apart = {b if a in moving else a for a, b in meshing if (a in moving) != (b in moving)}
        still = [p for name, parts in links.items() if name not in moving | apart for p in parts]
        turns = joint.kind == "revolute"
        stops = free_travel(
            [part for name in moving for part in links[name]],
            still,
            Line(joint.origin, joint.axis),
            turns,
            near,
        )
        yield _between(joint, *stops)


def _beyond(joints: Iterable[ProposedJoint], link: str) -> set[str]:
    """A link and all that hangs on it."""
    found = {link}
    # Parents come before children.
    for joint in joints:
        if joint.parent in found and not joint.closes:
            found.add(joint.child)
    return found


def _between(joint: ProposedJoint, lower: Stop, upper: Stop) -> ProposedJoint:
    turns = joint.kind == "revolute"
    if turns and upper.parts is None:
        return replace(
            joint,
            kind="continuous",
            reason=f"{joint.reason}; it meets nothing in a full turn",
            alternatives=("revolute, if something stops it that is not in the CAD",
                          *joint.alternatives[1:]),
        )  # fmt: skip
    dimension = "angle" if turns else "length"
    ends = list(joint.travel)
    words = []
    for k, stop in enumerate((lower, upper)):
        if stop.parts is None:
            words.append("")
            continue
        ends[k] = stop.at
        words.append(f"{stop.parts[0]} meets {stop.parts[1]}")
    if lower.parts is None and upper.parts is None:
        return joint
    if ends[1] - ends[0] < _LEAST[dimension]:
        met = " and ".join(dict.fromkeys(filter(None, words)))
        return replace(joint, confidence="fair" if joint.confidence == "high" else joint.confidence,
                       reason=f"{joint.reason}; {met} as soon as it moves")  # fmt: skip
    stopped = lower.parts is not None and upper.parts is not None
    return replace(
        joint,
        travel=(ends[0], ends[1]),
        travel_reason=_reason(words, ends, dimension),
        alternatives=joint.alternatives[1:] if turns and stopped else joint.alternatives,
    )


def _reason(words: list[str], ends: list[float], dimension: str) -> str:
    low, high = words
    if low == high:
        return f"from the geometry: {low} at both ends"
    if "" in words:
        free = words.index("")
        met, side = words[1 - free], ("upper", "lower")[free]
        guess = show(float(f"{ends[free]:.3g}"), dimension, 3)
        return (
            f"from the geometry: {met} at the {side} end; at the other nothing, {guess} is a guess"
        )
    return f"from the geometry: {low} at the lower end, {high} at the upper"
