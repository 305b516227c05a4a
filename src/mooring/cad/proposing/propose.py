"""From the parts of an assembly to links, joints and closures."""

from __future__ import annotations

from collections import deque
from dataclasses import replace

import numpy as np

from mooring.cad.assembly import Assembly
from mooring.cad.part import Part
from mooring.cad.proposing.clusters import Clusters
from mooring.cad.proposing.grouping import Grouped, group_parts
from mooring.cad.proposing.joints import Way
from mooring.cad.proposing.moving import Edge, usable
from mooring.cad.proposing.naming import bases_of, link_names, unique
from mooring.cad.proposing.proposal import Confidence, Kind, Proposal, ProposedJoint, ProposedLink
from mooring.cad.proposing.rounds import axis_of, balanced
from mooring.cad.proposing.survey import survey, usual_tolerance
from mooring.cad.touching.mates import Fit
from mooring.geometry import Array
from mooring.units import show

_QUARTER_TURN = float(np.pi / 2)
_MOST_LISTED = 12
_SLIDE_RATIO = 3.0
"""A slide's long member is at least this many times as long as its short one."""
_ENDINGS: dict[Kind, str] = {
    "revolute": "turn",
    "continuous": "turn",
    "prismatic": "slide",
    "cylindrical": "slide_and_turn",
    "spherical": "ball",
    "fixed": "mount",
}


def propose(assembly: Assembly, tolerance: float | None = None) -> Proposal:
    """Propose links and joints.

    Every pair of parts that touch has features in contact: pins in bores, flat faces, balls in
    sockets, surfaces of any kind. Each allows some relative motions and keeps from others; what
    they leave together, over pairs and then over clusters of parts that cannot move against each
    other, is the joint. See `touching.freedoms`, `grouping` and `moving`.

    Args:
        assembly: with its parts in place.
        tolerance: how far apart parts may be and still touch [m]; by the size of the whole if not
            given, half a millimetre for most machines.
    """
    seen = survey(assembly, usual_tolerance(assembly) if tolerance is None else tolerance)
    grouped = group_parts(seen)
    clusters = grouped.clusters
    edges = grouped.edges
    names = link_names(clusters)
    bases = bases_of(seen, grouped, edges)
    base, why = bases[0]
    proposals = _joints(clusters, names, edges)
    joints, notes, undecided = _as_tree(grouped, names, base, proposals)
    order = [base, *(r for r in clusters.members if r != base)]
    undecided += [single.words for single in grouped.singles]
    undecided += _gears(grouped, names)
    undecided += _ties(clusters)
    notes += [f"{name} bends, and no joint was looked for on it" for name in grouped.flexible]
    return Proposal(
        names[base],
        why,
        tuple((names[root], reason) for root, reason in bases[1:]),
        tuple(_link(clusters, names[root], root) for root in _outwards(order, names, joints)),
        tuple(joints),
        _equal_pairs(clusters, names, joints),
        tuple((h.name, len(h.parts), "; ".join(h.reasons)) for h in seen.hardware),
        tuple(dict.fromkeys(undecided)),
        tuple(dict.fromkeys(notes)),
    )


def _outwards(order: list[str], names: dict[str, str], joints: list[ProposedJoint]) -> list[str]:
    """Roots, the base first and parents before children."""
    by_name = {names[root]: root for root in order}
    found = [order[0]]
    for joint in joints:
        if not joint.closes:
            found.append(by_name[joint.child])
    return found


def _link(clusters: Clusters, name: str, root: str) -> ProposedLink:
    reasons = [why for why in dict.fromkeys(clusters.why.get(root, [])) if why]
    more = f"; and {len(reasons) - 4} more" if len(reasons) > 4 else ""
    reason = "; ".join(reasons[:4]) + more or "a part by itself"
    inside = set(clusters.members[root])
    parts = tuple(n for n in clusters.seen.parts if n in inside)
    return ProposedLink(name, parts, reason)


def _equal_pairs(
    clusters: Clusters, names: dict[str, str], joints: list[ProposedJoint]
) -> tuple[tuple[str, str], ...]:
    """Pairs of joints of one kind and one parent whose children are made of the same parts."""
    shapes = {
        names[root]: sorted(id(clusters.seen.parts[n].geometry) for n in members)
        for root, members in clusters.members.items()
    }
    found = []
    for number, one in enumerate(joints):
        for other in joints[number + 1 :]:
            like = (one.kind, one.parent) == (other.kind, other.parent)
            moves = one.kind in ("revolute", "continuous", "prismatic")
            equal = shapes[one.child] == shapes[other.child]
            if like and moves and equal and not (one.closes or other.closes):
                found.append((one.name, other.name))
    return tuple(found)


def _ties(clusters: Clusters) -> list[str]:
    listed = [
        f"{name} in {taken} (or {other})" for name, (taken, other) in sorted(clusters.ties.items())
    ]
    if not listed:
        return []
    more = f", and {len(listed) - _MOST_LISTED} more" if len(listed) > _MOST_LISTED else ""
    return [f"what is fixed where, as sizes do not tell: {', '.join(listed[:_MOST_LISTED])}{more}"]


def _gears(grouped: Grouped, names: dict[str, str]) -> list[str]:
    return [
        f"{names[a]} and {names[b]} touch as gears do; if they mesh, couple their joints"
        for a, b in grouped.gears
    ]


def _joints(
    clusters: Clusters, names: dict[str, str], edges: list[Edge]
) -> list[tuple[str, str, ProposedJoint]]:
    """Each way as a joint; parent and child are put right later."""
    moves = usable(edges, clusters.seen.size)
    found = []
    for (a, b, way), can in zip(edges, moves, strict=True):
        found.append((a, b, _joint(clusters, names, (a, b), way, can)))
    return found


def _joint(
    clusters: Clusters,
    names: dict[str, str],
    pair: tuple[str, str],
    way: Way,
    can: tuple[bool, ...] | None,
) -> ProposedJoint:
    parts = (way.fit.pin, way.fit.bore) if way.fit else ("", "")
    if parts[0] and clusters.of(parts[0]) != pair[0]:
        parts = (parts[1], parts[0])
    name = _pin_name(clusters, way)
    if way.ball:
        return ProposedJoint(
            name, "spherical", names[pair[0]], names[pair[1]], way.origin, way.axis, 0.0,
            way.found, "high", ("universal or revolute, if something keeps it from turning",),
            False, parts,
        )  # fmt: skip
    kind, reason, confidence, might = _kind(clusters, way, can)
    travel = _QUARTER_TURN
    if kind == "prismatic":
        travel = _room(clusters, pair, way)
    return ProposedJoint(
        name, kind, names[pair[0]], names[pair[1]], way.origin, way.axis, travel,
        reason, confidence, might, False, parts,
    )  # fmt: skip


def _pin_name(clusters: Clusters, way: Way) -> str:
    """A joint on a pin is called after it."""
    if way.fit is None:
        return ""
    seen = clusters.seen
    name = way.fit.pin
    members = clusters.members[clusters.of(name)]
    others = [n for n in members if n != name]
    if not seen.is_round(name) or not others or name in seen.screws:
        return ""
    if any(face.kind == "bore" for face in seen.parts[name].cylinders):
        return ""
    largest = max(abs(seen.parts[n].volume) for n in others)
    return name if abs(seen.parts[name].volume) < largest else ""


def _kind(
    clusters: Clusters,
    way: Way,
    can: tuple[bool, ...] | None,
) -> tuple[Kind, str, Confidence, tuple[str, ...]]:
    """Which kind of joint a way is, why, how sure that is, and what else it might be."""
    reason = way.found
    if way.fit is not None:
        reason += f" of radius {show(way.fit.radius, 'length', 3)}"
        if way.fit.runs:
            reason += f" with a clearance of {show(2 * way.fit.clearance, 'length', 2)}"
        if way.fit.rolls:
            reason += ", and balls or rollers run between them"
    turn_might = ("continuous, if nothing stops it", "fixed, if it is pressed in or welded")
    if way.turns and not way.slides:
        kind: Kind = "revolute"
        sure: Confidence = "high" if way.fit is not None else "fair"
        if can is not None and not any(can):
            reason += "; the loops it is in leave it no motion"
            sure = "low"
        return kind, reason, sure, turn_might
    if way.slides and not way.turns:
        sure = "high" if way.complete else "fair"
        if can is not None and not any(can):
            reason += "; the loops it is in leave it no motion"
            sure = "low"
        return "prismatic", reason, sure, ("fixed, if screws hold it that are not in the CAD",)
    if can is not None and can[0] != can[1]:
        if can[0]:
            return "revolute", reason + "; the loop it is in lets it turn only", "high", turn_might
        words = reason + "; the loop it is in lets it slide only"
        return "prismatic", words, "high", ("revolute, if it cannot slide",)
    ratio = way.ratio
    if can is not None and all(can) and ratio >= _SLIDE_RATIO:
        return "cylindrical", reason + "; the loop it is in lets it turn and slide", "fair", (
            "revolute", "prismatic",
        )  # fmt: skip
    wheel = way.fit is not None and axis_of(clusters, clusters.of(way.fit.bore)) is not None
    if ratio >= _SLIDE_RATIO and not wheel:
        words = reason + ", with no shoulder and a long way to go; it might turn as well"
        might = ("cylindrical, if it can turn too", "revolute, if it cannot slide")
        return "prismatic", words, "fair", might
    return "revolute", reason, "high" if ratio < _SLIDE_RATIO else "fair", turn_might


def _room(clusters: Clusters, pair: tuple[str, str], way: Way) -> float:
    """A guess of how far a slide can go either way [m]."""
    if way.fit is not None:
        room = sum(abs(b) for b in way.fit.beyond) / 2
        if room > 0.2 * way.fit.length:
            return room
    lengths = []
    for root in pair:
        parts = [clusters.seen.parts[n] for n in clusters.members[root]]
        points = np.concatenate([part.vertices for part in parts]) @ way.axis
        lengths.append(float(np.ptp(points)))
    # The guided body's own length along the slide is the most it could go.
    return 0.4 * min(lengths)


def _endless(joint: ProposedJoint) -> ProposedJoint:
    """A joint about which a wheel turns without end."""
    return replace(
        joint,
        kind="continuous",
        reason=f"{joint.reason}; what turns is balanced like a wheel",
        alternatives=("revolute, if something stops it", *joint.alternatives[1:]),
    )


def _as_tree(
    grouped: Grouped,
    names: dict[str, str],
    base: str,
    edges: list[tuple[str, str, ProposedJoint]],
) -> tuple[list[ProposedJoint], list[str], list[str]]:
    """Joints from the base outwards, closures where a loop closes, and what is left unconnected."""
    clusters = grouped.clusters
    notes: list[str] = []
    undecided: list[str] = []
    edges = list(edges)
    depth = _depths(base, edges)
    parts = {
        root: [clusters.seen.parts[n] for n in members]
        for root, members in clusters.members.items()
    }
    while len(depth) < len(parts):
        lost = max((r for r in parts if r not in depth), key=lambda r: len(parts[r]))
        near = min(depth, key=lambda r: _distance(parts[r], parts[lost]))
        joint = ProposedJoint(
            "", "fixed", names[near], names[lost], np.zeros(3), np.array([0.0, 0.0, 1.0]), 0.0,
            "nothing that can move was found between them", "low",
            ("any other; then give its type, place and axis",),
        )  # fmt: skip
        edges.append((near, lost, joint))
        notes.append(f"{names[lost]} is connected to nothing that was understood; held still")
        depth = _depths(base, edges)
    # Slides first: a loop is better closed at a pin, and far from the base.
    ranks = {"prismatic": 0, "fixed": 0, "revolute": 1, "spherical": 2, "cylindrical": 3}
    edges = sorted(edges, key=lambda e: (ranks[e[2].kind], depth[e[0]] + depth[e[1]]))
    kept: list[tuple[str, str, ProposedJoint]] = []
    closing: list[tuple[str, str, ProposedJoint]] = []
    reached = {root: root for root in parts}

    def top(root: str) -> str:
        while reached[root] != root:
            root = reached[root]
        return root

    for edge in edges:
        a, b = top(edge[0]), top(edge[1])
        (closing if a == b else kept).append(edge)
        reached[b] = a
    joints: list[ProposedJoint] = []
    taken: set[str] = set()
    done, waiting = {base}, deque([base])
    while waiting:
        here = waiting.popleft()
        for one, other, joint in kept:
            if here not in (one, other) or {one, other} <= done:
                continue
            child = other if here == one else one
            if joint.kind == "revolute" and _wheel(clusters, child, joint):
                joint = _endless(joint)
            joints.append(_oriented(joint, names[here], names[child], taken, here != one))
            done.add(child)
            waiting.append(child)
    for one, other, joint in closing:
        first, second = sorted((one, other), key=lambda r: depth[r])
        if joint.kind == "cylindrical":
            undecided.append(
                f"{names[first]} and {names[second]} share an axis about which they turn and along "
                "which they slide freely; if it is a screw, couple their joints"
            )
            continue
        oriented = _oriented(joint, names[first], names[second], taken, first != one)
        joints.append(replace(oriented, closes=True))
    return joints, notes, undecided


def _wheel(clusters: Clusters, root: str, joint: ProposedJoint) -> bool:
    fit = Fit("", "", joint.origin, joint.axis, 1.0, 0.0, 1.0, (0.0, 0.0), False, 0.0)
    return balanced(clusters, root, fit)


def _oriented(
    joint: ProposedJoint, parent: str, child: str, taken: set[str], swapped: bool
) -> ProposedJoint:
    name = unique(joint.name or f"{child}_{_ENDINGS[joint.kind]}", taken)
    parts = (joint.parts[1], joint.parts[0]) if swapped else joint.parts
    return replace(joint, name=name, parent=parent, child=child, parts=parts)


def _depths(base: str, edges: list[tuple[str, str, ProposedJoint]]) -> dict[str, int]:
    depth, waiting = {base: 0}, deque([base])
    while waiting:
        here = waiting.popleft()
        for one, other, _ in edges:
            if here in (one, other):
                there = other if here == one else one
                if there not in depth:
                    depth[there] = depth[here] + 1
                    waiting.append(there)
    return depth


def _distance(one: list[Part], other: list[Part]) -> float:
    """Between the bounding boxes of two groups."""
    lows: list[Array] = []
    highs: list[Array] = []
    for parts in (one, other):
        lows.append(np.min([p.vertices.min(axis=0) for p in parts], axis=0))
        highs.append(np.max([p.vertices.max(axis=0) for p in parts], axis=0))
    gap = np.maximum(np.maximum(lows[0] - highs[1], lows[1] - highs[0]), 0)
    return float(np.linalg.norm(gap))
