"""What is proposed, each with its reason."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from mooring.geometry import Array

Kind = Literal["revolute", "continuous", "prismatic", "cylindrical", "spherical", "fixed"]
Confidence = Literal["high", "fair", "low"]


@dataclass(frozen=True, eq=False)
class ProposedLink:
    """Parts that hold together.

    Attributes:
        name: from the CAD.
        parts: names of the parts.
        reason: why they hold together, in words.
    """

    name: str
    parts: tuple[str, ...]
    reason: str


@dataclass(frozen=True, eq=False)
class ProposedJoint:
    """Two links that can move against each other.

    Attributes:
        name: from the CAD.
        kind: how they can move; fixed where nothing but their place in the CAD connects them.
        parent, child: names of links; for a closure the two it joins.
        origin: a point on the axis in CAD coordinates, (3,) [m].
        axis: unit vector, (3,).
        travel: the ends of its travel [rad or m].
        travel_reason: what ends it; empty where that is only a guess.
        balanced: whether what turns is balanced like a wheel.
        reason: what it was found from.
        confidence: how sure that is.
        alternatives: what it might be instead, in words.
        closes: whether it closes a loop, so that it is a closure and not a joint of the tree.
        parts: the two parts it was found between, in the order of parent and child.
    """

    name: str
    kind: Kind
    parent: str
    child: str
    origin: Array
    axis: Array
    travel: tuple[float, float]
    reason: str
    confidence: Confidence
    alternatives: tuple[str, ...] = ()
    closes: bool = False
    parts: tuple[str, str] = ("", "")
    travel_reason: str = ""
    balanced: bool = False


@dataclass(frozen=True, eq=False)
class Proposal:
    """A robot to edit.

    Attributes:
        base: the link that stands still, and why.
        other_bases: links that might be the base instead, each with the reason.
        links, joints: what is proposed; the base first, parents before children.
        pairs: joints of one parent that carry equal parts, and so may be coupled.
        hardware: kinds of parts taken for hardware, each with how many there are and why.
        motors: joints with the name of the part that seems to drive each.
        undecided: what could not be decided, how it was taken, and what it might be.
        notes: what was not understood.
    """

    base: str
    base_reason: str
    other_bases: tuple[tuple[str, str], ...]
    links: tuple[ProposedLink, ...]
    joints: tuple[ProposedJoint, ...]
    pairs: tuple[tuple[str, str], ...]
    hardware: tuple[tuple[str, int, str], ...]
    motors: tuple[tuple[str, str], ...]
    undecided: tuple[str, ...]
    notes: tuple[str, ...]
