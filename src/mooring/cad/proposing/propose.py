"""From the parts of an assembly to links, joints and closures."""

from __future__ import annotations

from collections import deque
from dataclasses import replace

import numpy as np

from mooring.cad.assembly import Assembly
from mooring.cad.part import Part
from mooring.cad.proposing.grouping import Between, Groups, group_parts
from mooring.cad.proposing.proposal import Kind, Proposal, ProposedJoint, ProposedLink
from mooring.cad.solid import sum_of_solids
from mooring.geometry import Array, frame_along
from mooring.units import show

_QUARTER_TURN = float(np.pi / 2)
_ENDINGS = {"revolute": "turn", "continuous": "turn", "prismatic": "slide", "fixed": "mount"}
_FEWEST_MOUNTS = 3
"""Bolts into nothing, by which a group is thought to be bolted to the ground or a hull."""
_HUB = 3
"""Neighbours from which on a group is thought to be the body that limbs or wheels are joined to."""


def propose(assembly: Assembly, tolerance: float = 5e-4) -> Proposal:
    """Propose links and joints.

    Parts hold together when screws join them, when they run into each other, or when they lie on
    each other in one sub-assembly. Groups can turn where a pin sits in a bore, and slide where
    faces or a long round member guide them. A joint that closes a loop becomes a closure.

    Args:
        assembly: with its parts in place.
        tolerance: how far apart parts may be and still touch [m].
    """
    groups = group_parts(assembly, tolerance)
    members: dict[str, list[Part]] = {}
    for part in assembly.parts:
        members.setdefault(groups.unions.of(part.name), []).append(part)
    names = _link_names(assembly, members)
    bases = _bases(members, groups)
    base, why = bases[0]
    edges = [
        _joint(groups.axles, members, names, pair, gap) for pair, gap in groups.between.items()
    ]
    joints, notes = _as_tree(names, members, base, edges)
    order = [names[base], *(joint.child for joint in joints if not joint.closes)]
    by_link = {names[root]: root for root in members}
    links = tuple(_link(name, members[by_link[name]], groups, by_link[name]) for name in order)
    others = tuple((names[root], reason) for root, reason in bases[1:])
    shapes = {
        names[root]: sorted(id(part.geometry) for part in parts) for root, parts in members.items()
    }
    pairs = _equal_pairs(joints, shapes)
    return Proposal(names[base], why, others, links, tuple(joints), pairs, tuple(notes))


def _equal_pairs(
    joints: list[ProposedJoint], shapes: dict[str, list[int]]
) -> tuple[tuple[str, str], ...]:
    """Pairs of joints of one kind and one parent whose children are made of the same parts."""
    found = []
    for number, one in enumerate(joints):
        for other in joints[number + 1 :]:
            like = (one.kind, one.parent) == (other.kind, other.parent) and one.kind != "fixed"
            equal = shapes[one.child] == shapes[other.child]
            if like and equal and not (one.closes or other.closes):
                found.append((one.name, other.name))
    return tuple(found)


def _link(name: str, parts: list[Part], groups: Groups, root: str) -> ProposedLink:
    reasons = [why for why in dict.fromkeys(groups.unions.why.get(root, [])) if why]
    more = f"; and {len(reasons) - 4} more" if len(reasons) > 4 else ""
    reason = "; ".join(reasons[:4]) + more or "a part by itself"
    return ProposedLink(name, tuple(part.name for part in parts), reason)


def _link_names(assembly: Assembly, members: dict[str, list[Part]]) -> dict[str, str]:
    """A name for each group: its sub-assembly's for the largest in it, else its largest part's."""
    largest = {root: max(parts, key=lambda p: p.volume) for root, parts in members.items()}
    names: dict[str, str] = {}
    taken: set[str] = set()
    for root in sorted(members, key=lambda r: -sum(p.volume for p in members[r])):
        folder = largest[root].path.split("/")[-2:-1]
        wanted = folder[0].removesuffix("_assembly") if folder else ""
        if not wanted or wanted in taken or wanted == assembly.name:
            wanted = largest[root].name
        name, number = wanted, 1
        while name in taken:
            number += 1
            name = f"{wanted}_{number}"
        names[root] = name
        taken.add(name)
    return names


def _bases(members: dict[str, list[Part]], groups: Groups) -> list[tuple[str, str]]:
    """The groups that may be the base, the likeliest first, each with the reason."""
    found: dict[str, str] = {}
    bolted = max(groups.mounts, key=lambda r: groups.mounts[r], default=None)
    if bolted is not None and groups.mounts[bolted] >= _FEWEST_MOUNTS:
        found[bolted] = f"{groups.mounts[bolted]} of its bolts lead into something that is not here"
    degree = {root: sum(root in pair for pair in groups.between) for root in members}
    hub = max(members, key=lambda r: (degree[r], _volume(members[r])))
    if degree[hub] >= _HUB and list(degree.values()).count(degree[hub]) == 1:
        found.setdefault(hub, f"{degree[hub]} others are joined to it, more than to any")
    lows = {r: min(float(p.vertices[:, 2].min()) for p in parts) for r, parts in members.items()}
    highest = max(float(p.vertices[:, 2].max()) for parts in members.values() for p in parts)
    floor = min(lows.values())
    near = [r for r, low in lows.items() if low <= floor + 0.02 * (highest - floor)]
    lowest = max(near, key=lambda r: _volume(members[r]))
    among = ", and of what stands on the ground it is the largest" if len(near) > 1 else ""
    found.setdefault(lowest, f"nothing reaches lower{among}")
    return list(found.items())


def _volume(parts: list[Part]) -> float:
    return sum(part.volume for part in parts)


def _joint(
    pins: set[str],
    members: dict[str, list[Part]],
    names: dict[str, str],
    pair: tuple[str, str],
    gap: Between,
) -> tuple[str, str, ProposedJoint]:
    """What lets two groups move; parent and child are put right later."""
    kind: Kind
    one, other = pair
    if gap.turnings:
        slides = all(turning.free for turning, _, _ in gap.turnings)
        turning, a, b = max(gap.turnings, key=lambda found: found[0].radius)
        axles = [name for name in (a, b) if name in pins]
        kind = "prismatic" if slides and not axles else "revolute"
        room = min(t.room for t, _, _ in gap.turnings)
        travel = room if kind == "prismatic" else _QUARTER_TURN
        radius = show(turning.radius, "length", 3)
        reason = f"{a} and {b} share an axis of radius {radius}"
        if kind == "prismatic":
            reason += ", with no shoulder and a long way to go; it might turn as well"
        name = axles[0] if axles else ""
        might = ["revolute, if it turns about the same axis and cannot slide"]
        if kind == "revolute":
            might = ["continuous, if nothing stops it", "fixed, if it is pressed in or welded"]
        joint = ProposedJoint(
            name, kind, names[one], names[other], turning.origin, turning.direction, travel,
            reason, "fair" if kind == "prismatic" else "high", tuple(might),
        )  # fmt: skip
        return one, other, joint
    direction = gap.direction
    assert direction is not None
    # The guided body's own length along the slide is the most it could go.
    lengths = []
    for root in pair:
        points = np.concatenate([part.vertices for part in members[root]]) @ direction
        lengths.append(float(np.ptp(points)))
    shorter = members[pair[lengths[1] < lengths[0]]]
    middle = np.mean([part.vertices.mean(axis=0) for part in shorter], axis=0)
    joint = ProposedJoint(
        "", "prismatic", names[one], names[other], middle, direction, 0.4 * min(lengths),
        f"faces of {gap.parts[0]} and {gap.parts[1]} leave one way to slide", "fair",
        ("fixed, if screws hold it that are not in the CAD",),
    )  # fmt: skip
    return one, other, joint


def _endless(joint: ProposedJoint) -> ProposedJoint:
    """A joint about which a wheel turns without end."""
    return replace(
        joint,
        kind="continuous",
        reason=f"{joint.reason}; what turns is balanced like a wheel",
        alternatives=("revolute, if something stops it", *joint.alternatives[1:]),
    )


def _balanced(parts: list[Part], turning: ProposedJoint) -> bool:
    """Whether a group turns about an axis of its own without shaking, as a wheel does."""
    whole = sum_of_solids([part.solid for part in parts])
    frame = frame_along(turning.axis)
    moments = frame.T @ whole.inertia @ frame
    arm = whole.centroid - turning.origin
    aside = np.linalg.norm(arm - turning.axis * (arm @ turning.axis))
    uneven = abs(moments[0, 0] - moments[1, 1]) + abs(moments[0, 1])
    tilted = np.abs(moments[:2, 2]).max()
    return bool(aside < 1e-4 and max(uneven, tilted) < 0.01 * moments[2, 2])


def _as_tree(
    names: dict[str, str],
    members: dict[str, list[Part]],
    base: str,
    edges: list[tuple[str, str, ProposedJoint]],
) -> tuple[list[ProposedJoint], list[str]]:
    """Joints from the base outwards, closures where a loop closes, and what is left unconnected."""
    notes = []
    depth = _depths(base, edges)
    while len(depth) < len(members):
        lost = max((r for r in members if r not in depth), key=lambda r: len(members[r]))
        near = min(depth, key=lambda r: _distance(members[r], members[lost]))
        joint = ProposedJoint(
            "", "fixed", names[near], names[lost], np.zeros(3), np.array([0.0, 0.0, 1.0]), 0.0,
            "nothing that can move was found between them", "low",
            ("any other; then give its type, place and axis",),
        )  # fmt: skip
        edges.append((near, lost, joint))
        notes.append(f"{names[lost]} is connected to nothing that was understood; held still")
        depth = _depths(base, edges)
    # Slides first: a loop is better closed at a pin, and far from the base.
    edges = sorted(edges, key=lambda e: (e[2].kind != "prismatic", depth[e[0]] + depth[e[1]]))
    kept: list[tuple[str, str, ProposedJoint]] = []
    closing: list[tuple[str, str, ProposedJoint]] = []
    reached = {root: root for root in members}

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
            if joint.kind == "revolute" and _balanced(members[child], joint):
                joint = _endless(joint)
            joints.append(_oriented(joint, names[here], names[child], taken, False))
            done.add(child)
            waiting.append(child)
    for one, other, joint in closing:
        first, second = sorted((one, other), key=lambda r: depth[r])
        joints.append(_oriented(joint, names[first], names[second], taken, True))
    return joints, notes


def _oriented(
    joint: ProposedJoint, parent: str, child: str, taken: set[str], closes: bool
) -> ProposedJoint:
    ending = _ENDINGS[joint.kind]
    wanted = joint.name or f"{child}_{ending}"
    name, number = wanted, 1
    while name in taken:
        number += 1
        name = f"{wanted}_{number}"
    taken.add(name)
    return replace(joint, name=name, parent=parent, child=child, closes=closes)


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
