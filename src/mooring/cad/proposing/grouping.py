"""From parts that touch to clusters that move."""

from __future__ import annotations

from dataclasses import dataclass

from mooring.cad.proposing.bearings import find_bearings, join_bearings, let_roll
from mooring.cad.proposing.clusters import Clusters
from mooring.cad.proposing.fastening import (
    Single,
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
        singles: screws that alone join parts.
        mounts: how many screws go through a cluster into nothing that is there, by its root.
        gears: pairs of roots that touch as gears do.
        flexible: names of parts that are no rigid body.
    """

    clusters: Clusters
    edges: list[Edge]
    singles: list[Single]
    mounts: dict[str, int]
    gears: list[tuple[str, str]]
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
    for (a, b), mate in seen.mates.items():
        if any(fit.pressed for fit in mate.fits):
            clusters.join(a, b, f"{mate.fits[0].pin} is pressed into {mate.fits[0].bore}")
    while True:
        if hold_by_shape(clusters) or hold_what_lies(clusters, bodies_only=True):
            continue
        if not settle_rounds(clusters) and not hold_what_lies(clusters, bodies_only=False):
            break
    return Grouped(
        clusters,
        [(a, b, way) for (a, b), way in ways_of(clusters).items() if way is not None],
        singles,
        mounts_of(clusters, fastenings),
        [(a, b) for a, b, between in clusters.pairs() if are_gears(clusters, a, b, between)],
        [name for name in seen.parts if is_flexible(name)],
    )
