"""From parts that touch to clusters that move."""

from __future__ import annotations

from dataclasses import dataclass

from mooring.cad.proposing.bearings import find_bearings, join_bearings, let_roll
from mooring.cad.proposing.clusters import Clusters
from mooring.cad.proposing.fastening import (
    fasten,
    fastenings_of,
    mounts_of,
    settle_singles,
)
from mooring.cad.proposing.holding import (
    are_gears,
    hold_by_shape,
    hold_what_lies,
    is_flexible,
    ways_of,
)
from mooring.cad.proposing.moving import Edge
from mooring.cad.proposing.rounds import settle_rounds
from mooring.cad.proposing.survey import Survey


@dataclass(eq=False)
class Grouped:
    """The result.

    Attributes:
        clusters: what holds together.
        edges: pairs of clusters that can move against each other, and how.
        singles: what was thought of screws that alone join parts, in words.
        mounts: how many screws go through a cluster into nothing that is there, by its root.
        gears: pairs of roots that touch as gears do.
        loose: pairs of roots that touch, and are neither held together nor joined.
        flexible: names of parts that are no rigid body.
    """

    clusters: Clusters
    edges: list[Edge]
    singles: list[str]
    mounts: dict[str, int]
    gears: list[tuple[str, str]]
    loose: list[tuple[str, str]]
    flexible: list[str]


def group_parts(seen: Survey) -> Grouped:
    """Group the parts of an assembly by what holds them together.

    The surest first: screws, bearings, what pins hold on two axes, round pieces; and only then what
    merely lies on each other, one pair at a time, each as long as it locks no joint.
    """
    bearings = find_bearings(seen)
    let_roll(seen, bearings)
    clusters = Clusters(seen)
    join_bearings(clusters, bearings)
    fastenings = fastenings_of(seen)
    left = fasten(clusters, fastenings)
    singles = settle_singles(clusters, left)
    for (a, b), meeting in seen.meetings.items():
        if any(fit.pressed for fit in meeting.fits):
            clusters.join(a, b, f"{meeting.fits[0].pin} is pressed into {meeting.fits[0].bore}")
    while True:
        if hold_by_shape(clusters) or hold_what_lies(clusters, bodies_only=True):
            continue
        if not settle_rounds(clusters) and not hold_what_lies(clusters, bodies_only=False):
            break
    ways = ways_of(clusters)
    gears = [(a, b) for a, b, between in clusters.pairs() if are_gears(clusters, a, b, between)]
    flexible = {name for name in seen.parts if is_flexible(name)}
    return Grouped(
        clusters,
        [(a, b, way) for (a, b), way in ways.items() if way is not None],
        singles,
        mounts_of(clusters, fastenings),
        gears,
        [p for p, way in ways.items() if way is None and p not in gears and not flexible & set(p)],
        sorted(flexible),
    )
