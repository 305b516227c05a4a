"""Pins, bushes, rings, shafts and wheels: of what is round about one axis, who turns with whom.

Nobody sees a body of revolution turn. So of all that is round about one axis, each piece goes with
one of the bodies that are not, or stays by itself; and of each chain of pieces between two bodies
one place turns: where the evidence for a running fit is strongest.
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass, field

import numpy as np

from mooring.cad.proposing.axes import piece_axis
from mooring.cad.proposing.clusters import Between, Clusters
from mooring.cad.proposing.evidence import Hold, hold_of, is_mere_shoulder
from mooring.cad.proposing.unions import Unions
from mooring.cad.touching.lines import Axial, same_axis
from mooring.cad.touching.meetings import Fit

_LARGE = 0.02
"""Of what it sits in, the share of volume from which a plain round piece may be a rotor."""
_FIRM = 2.0
"""Evidence from which on nothing turns, whatever it looks like."""
_TIE = 0.55
"""Difference of weights below which nothing tells one from the other."""
_TIGHT = 1e-5
"""[m]; faces no farther apart are clamped, where a screw goes through."""

Pair = tuple[str, str]


@dataclass(eq=False)
class _Group:
    """What is round about one axis and hangs together.

    Attributes:
        axis: of all.
        pieces: roots of the round clusters.
        bodies: roots of the clusters they touch that are not round.
        holds: of each pair of neighbours.
    """

    axis: Axial
    pieces: list[str] = field(default_factory=list)
    bodies: list[str] = field(default_factory=list)
    holds: dict[Pair, Hold] = field(default_factory=dict)

    def weight(self, one: str, other: str) -> float:
        """Of the evidence that two neighbours turn together."""
        return self.holds[min(one, other), max(one, other)].weight


def settle_rounds(clusters: Clusters) -> bool:
    """Put round pieces with what they turn with; whether anything was joined."""
    joined = False
    for group in _groups(clusters):
        # What was joined a moment ago may have changed others; they have their turn again.
        if all(root in clusters.members for root in (*group.pieces, *group.bodies)):
            joined |= _settle(clusters, group)
    return joined


def _groups(clusters: Clusters) -> list[_Group]:
    axes = {
        root: axis
        for root in clusters.members
        if (axis := piece_axis(clusters, root)) is not None and _only_about(clusters, root, axis)
    }
    groups: list[_Group] = []
    done: set[str] = set()
    for root, axis in axes.items():
        if root in done:
            continue
        group = _Group(axis)
        waiting = deque([root])
        done.add(root)
        while waiting:
            here = waiting.popleft()
            group.pieces.append(here)
            for other, between in clusters.near(here).items():
                if not _about(between, axis) or is_mere_shoulder(clusters, between, here, axis):
                    continue
                if other in axes and not same_axis(axis, axes[other]):
                    continue
                pair = (min(here, other), max(here, other))
                group.holds.setdefault(pair, hold_of(clusters, between, axis))
                if other not in axes and other not in group.bodies:
                    group.bodies.append(other)
                elif other in axes and other not in done:
                    done.add(other)
                    waiting.append(other)
        inside = {*group.pieces, *group.bodies}
        group.holds = {pair: hold for pair, hold in group.holds.items() if inside >= set(pair)}
        if group.holds:
            groups.append(group)
    return groups


def _only_about(clusters: Clusters, root: str, axis: Axial) -> bool:
    """Whether all that guides a cluster is about one axis."""
    near = clusters.near(root).values()
    return any(_about(between, axis) for between in near) and all(
        same_axis(axis, fit) for between in near for fit in between.fits
    )


def _about(between: Between, axis: Axial) -> bool:
    if between.fits:
        return same_axis(axis, between.fits[0])
    _, normals = between.pushes
    # Shoulders of rings that lie against each other.
    return bool(len(normals)) and bool((np.abs(normals @ axis.direction) > 0.999).all())


def _settle(clusters: Clusters, group: _Group) -> bool:
    if not group.bodies:
        # Everything is round: the largest stands for the body the others are about.
        largest = max(group.pieces, key=clusters.volume)
        group.pieces.remove(largest)
        group.bodies.append(largest)
    kept = _firmest(clusters, group)
    cut = _cuts(clusters, group, kept)
    _note_ties(clusters, group)
    joined = False
    for one, other in kept:
        if (one, other) not in cut:
            why = group.holds[one, other].why
            names = clusters.touching_parts(one, other)
            joined |= clusters.join(one, other, f"{names[0]} goes with {names[1]}: {why}")
    return joined


def _firmest(clusters: Clusters, group: _Group) -> list[Pair]:
    """The neighbours to be joined so that each piece hangs on one body, by most evidence.

    A forest of the greatest weight (Kruskal, 1956) in which no tree has two bodies.
    """
    sets = Unions((*group.pieces, *group.bodies))
    has_body = set(group.bodies)
    order = sorted(
        group.holds,
        key=lambda p: (-group.holds[p].weight, -sum(map(clusters.volume, p)), p),
    )
    apart = _rotors(group)
    kept: list[Pair] = []
    for pair in order:
        a, b = sets.of(pair[0]), sets.of(pair[1])
        if pair in apart or a == b or {a, b} <= has_body:
            continue
        kept.append(pair)
        sets.join(a, b)
        if b in has_body:
            has_body.add(a)
    return kept


def _rotors(group: _Group) -> set[Pair]:
    """The places at which a shaft with all on it runs in two or more bushes or bearings.

    It is told from a pin in bushes by a wheel or drum on it, or by a body that it goes through and
    far beyond, as a spindle through its nut.
    """
    firm = Unions(group.pieces)
    for (a, b), hold in group.holds.items():
        if not hold.runs and hold.weight > 0 and {a, b} <= set(group.pieces):
            firm.join(a, b)
    found: set[Pair] = set()
    for root in {firm.of(piece) for piece in group.pieces}:
        members = {piece for piece in group.pieces if firm.of(piece) == root}
        edges = {pair: hold for pair, hold in group.holds.items() if len(members & set(pair)) == 1}
        others = [hold for hold in edges.values() if not hold.runs]
        if sum(hold.runs for hold in edges.values()) < 2 or any(h.weight > 0 for h in others):
            continue
        if len(members) > 1 or any(hold.through for hold in others):
            found |= edges.keys()
    return found


def _note_ties(clusters: Clusters, group: _Group) -> None:
    """Remember the pins for which about as much speaks for one body as for another."""
    for piece in group.pieces:
        near = sorted(
            (
                (hold.weight, other)
                for pair, hold in group.holds.items()
                if piece in pair
                for other in pair
                if other in group.bodies
            ),
            reverse=True,
        )
        if len(near) < 2 or near[0][0] - near[1][0] > _TIE:
            continue
        ours = set(clusters.members[piece])
        found = [
            next(name for name in clusters.touching_parts(piece, body) if name not in ours)
            for _, body in near[:2]
        ]
        clusters.ties[clusters.members[piece][0]] = (found[0], found[1])


def _cuts(clusters: Clusters, group: _Group, kept: list[Pair]) -> set[Pair]:
    """Where in chains that end at a round piece, as a wheel on an axle, something turns."""
    near: dict[str, list[str]] = {}
    for a, b in kept:
        near.setdefault(a, []).append(b)
        near.setdefault(b, []).append(a)
    settled = (
        len(group.bodies) > 1
        or any(hold.clear for hold in group.holds.values())
        or any(_turns_already(clusters, group, body) for body in group.bodies)
    )
    found: list[tuple[float, int, list[Pair]]] = []
    for body in group.bodies:
        for path in _paths(near, body):
            weights = [round(group.weight(*edge), 2) for edge in path]
            found.append((min(weights), weights.index(min(weights)), path))
    chosen: set[Pair] = set()
    for _, place, path in sorted(found, key=lambda f: f[:2]):
        if chosen & set(path):
            continue
        beyond = _beyond(near, path[place])
        if not _sits_elsewhere(group, path[0][0], beyond) and _turns(
            clusters, group, path[place], beyond, settled
        ):
            chosen.add(path[place])
    return {(min(edge), max(edge)) for edge in chosen}


def _paths(near: dict[str, list[str]], body: str) -> list[list[Pair]]:
    """The ways from a body to every end of the tree that hangs on it."""
    paths: list[list[Pair]] = []
    waiting: deque[tuple[str, list[Pair]]] = deque([(body, [])])
    reached = {body}
    while waiting:
        here, path = waiting.popleft()
        ahead = [b for b in near.get(here, []) if b not in reached]
        if not ahead and path:
            paths.append(path)
        reached |= set(ahead)
        waiting.extend((b, [*path, (here, b)]) for b in ahead)
    return paths


def _beyond(near: dict[str, list[str]], edge: Pair) -> set[str]:
    """All that hangs on the far side of an edge."""
    found, waiting = {edge[1]}, [edge[1]]
    while waiting:
        ahead = [b for b in near[waiting.pop()] if b not in found and b != edge[0]]
        found |= set(ahead)
        waiting += ahead
    return found


def _turns_already(clusters: Clusters, group: _Group, body: str) -> bool:
    """Whether a body itself turns about the group's axis against something else."""
    return any(
        same_axis(group.axis, fit)
        for other, between in clusters.near(body).items()
        if other not in group.pieces and piece_axis(clusters, other) is None
        for fit in between.fits
    )


def _sits_elsewhere(group: _Group, body: str, beyond: set[str]) -> bool:
    """Whether what hangs on a body sits in another as well, as a pin between two."""
    others = set(group.bodies) - {body}
    return any(beyond & set(pair) and others & set(pair) for pair in group.holds)


def _turns(clusters: Clusters, group: _Group, edge: Pair, beyond: set[str], settled: bool) -> bool:
    """Whether what hangs on the far side of an edge turns by itself.

    Args:
        clusters: all.
        group: that the edge is in.
        edge: from the near side to the far side.
        beyond: roots of all on the far side.
        settled: whether something else is known to turn about the axis.
    """
    between = clusters.between(*edge)
    if between is None or not between.fits:
        return False
    fit = max(between.fits, key=lambda f: f.length)
    members = {name for root in beyond for name in clusters.members[root]}
    if fit.rolls:
        return True
    if members <= clusters.seen.screws or fit.pressed or _clamped(clusters, members, fit):
        return False
    large = sum(map(clusters.volume, beyond)) > _LARGE * clusters.volume(edge[0])
    outside = fit.bore in members
    if fit.runs:
        return large or outside or len(members) > 1
    # Nominal sizes say nothing: a wheel about a stub turns, a plug or a dowel does not.
    return not settled and group.weight(*edge) <= _FIRM and (outside or large)


def _clamped(clusters: Clusters, members: set[str], fit: Fit) -> bool:
    """Whether a ring on a screw is clamped between two other parts, as a spacer is."""
    seen = clusters.seen
    if fit.pin not in seen.screws or fit.bore not in members:
        return False
    ends = [
        meeting
        for other in seen.neighbours[fit.bore]
        if other not in members and other != fit.pin
        for meeting in (seen.meeting(fit.bore, other),)
        if len(meeting.points) and meeting.gap < _TIGHT
    ]
    return len(ends) >= 2
