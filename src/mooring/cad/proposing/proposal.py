"""What is proposed, each with its reason."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from mooring.geometry import Array

Kind = Literal["revolute", "continuous", "prismatic", "fixed"]
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
        travel: a guess of how far it can go either way [rad or m].
        reason: what it was found from.
        confidence: how sure that is.
        alternatives: what it might be instead, in words.
        closes: whether it closes a loop, so that it is a closure and not a joint of the tree.
    """

    name: str
    kind: Kind
    parent: str
    child: str
    origin: Array
    axis: Array
    travel: float
    reason: str
    confidence: Confidence
    alternatives: tuple[str, ...] = ()
    closes: bool = False


@dataclass(frozen=True, eq=False)
class Proposal:
    """A robot to edit.

    Attributes:
        base: the link that stands still, and why.
        other_bases: links that might be the base instead, each with the reason.
        links, joints: what is proposed; the base first, parents before children.
        pairs: joints of one parent that carry equal parts, and so may be coupled.
        notes: what could not be decided.
    """

    base: str
    base_reason: str
    other_bases: tuple[tuple[str, str], ...]
    links: tuple[ProposedLink, ...]
    joints: tuple[ProposedJoint, ...]
    pairs: tuple[tuple[str, str], ...]
    notes: tuple[str, ...]
