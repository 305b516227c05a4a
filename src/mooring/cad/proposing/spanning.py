"""A tree of joints from the base outwards, and closures for the loops it cannot hold."""

from __future__ import annotations

from collections import deque
from dataclasses import replace

import numpy as np

from mooring.cad.part import Part
from mooring.cad.proposing.axes import balanced
from mooring.cad.proposing.clusters import Clusters
from mooring.cad.proposing.naming import unique
from mooring.cad.proposing.proposal import Kind, ProposedJoint
from mooring.cad.proposing.unions import Unions
from mooring.cad.touching.lines import Line
from mooring.geometry import Array

_ENDINGS: dict[Kind, str] = {
    "revolute": "turn",
    "continuous": "turn",
    "prismatic": "slide",
    "cylindrical": "slide_and_turn",
    "spherical": "ball",
    "fixed": "mount",
}


def spanning_tree(
    clusters: Clusters,
    names: dict[str, str],
    base: str,
    edges: list[tuple[str, str, ProposedJoint]],
) -> tuple[list[ProposedJoint], list[str], list[str]]:
    """Joints from the base outwards, closures where a loop closes, and what is left unconnected."""
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
            "", "fixed", names[near], names[lost], np.zeros(3), np.array([0.0, 0.0, 1.0]),
            (0.0, 0.0), "nothing that can move was found between them", "low",
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
    sets = Unions(parts)
    for edge in edges:
        (kept if sets.join(edge[0], edge[1]) else closing).append(edge)
    joints: list[ProposedJoint] = []
    taken: set[str] = set()
    done, waiting = {base}, deque([base])
    while waiting:
        here = waiting.popleft()
        for one, other, joint in kept:
            if here not in (one, other) or {one, other} <= done:
                continue
            child = other if here == one else one
            if joint.kind == "revolute" and balanced(
                clusters, child, Line(joint.origin, joint.axis)
            ):
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


def _endless(joint: ProposedJoint) -> ProposedJoint:
    """A joint about which a wheel turns without end."""
    return replace(
        joint,
        kind="continuous",
        balanced=True,
        reason=f"{joint.reason}; what turns is balanced like a wheel",
        alternatives=("revolute, if something stops it", *joint.alternatives[1:]),
    )


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
