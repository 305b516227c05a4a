"""Rules on links that overlap."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.kinematics.overlaps import Cluster, clusters
from mooring.model.definition.fields import dimension_of
from mooring.units import show

_TOUCHING = 1e-6
"""[m]"""
_COARSE = 0.2
"""A clearance of more than this share of a shape's shortest side would leave little of it."""


@rule("collision-none", "warning", needs_tree=True)
def collision_none(subject: Subject) -> Iterator[Found]:
    """A moving link that can be seen can be hit; one that nothing is to hit says so."""
    robot = subject.robot
    moving = {joint.child for joint in robot.joints.values() if joint.moves}
    if not any(link.collisions for link in robot.links.values()):
        return
    for name in robot.links:
        link = robot.links[name]
        seen = bool(link.parts or link.visuals)
        if name in moving and seen and link.collision is None:
            yield Found(
                ("links", name),
                f"link {name!r} moves, and nothing is said of what it collides with",
                "add collision: auto, or collision: none if nothing is to hit it",
            )


@rule("overlap-neutral", "error", needs_tree=True)
def overlap_neutral(subject: Subject) -> Iterator[Found]:
    """Nothing overlaps at the neutral posture."""
    clustered = {frozenset((c.links[0], c.links[2])) for c in _clusters(subject)}
    pairs = subject.around.pairs.judged
    for pair, distance in zip(pairs, subject.distances[0], strict=True):
        if distance < -_TOUCHING and frozenset(pair) not in clustered:
            yield Found(
                ("links", pair[0], "collision"),
                f"{pair[0]} and {pair[1]} overlap by {show(-float(distance), 'length', 3)} at the "
                "neutral posture",
                _remedy(*pair),
            )


@rule("overlap-at-one-point", "error", needs_tree=True)
def overlap_at_one_point(subject: Subject) -> Iterator[Found]:
    """Of three links joined at nearly one point the first and the last do not overlap.

    It is what makes simulated robots thrash about.
    """
    for cluster in _clusters(subject):
        first, _, last = cluster.links
        yield Found(
            ("joints", cluster.joints[1]),
            str(cluster),
            f"{_shrinking(subject, cluster)}; or allowances: [{{between: [{first}, {last}]}}]",
        )


@rule("overlap-in-posture", "error", needs_tree=True)
def overlap_in_posture(subject: Subject) -> Iterator[Found]:
    """Nothing overlaps in a named posture."""
    pairs = subject.around.pairs.judged
    for number, name in enumerate(subject.postures, start=1):
        for pair, distance, before in zip(
            pairs, subject.distances[number], subject.distances[0], strict=True
        ):
            if distance < -_TOUCHING and before >= -_TOUCHING:
                yield Found(
                    ("postures", name),
                    f"in posture {name!r} {pair[0]} and {pair[1]} overlap by "
                    f"{show(-float(distance), 'length', 3)}",
                    f"change the posture; or, if they do not meet there, {_remedy(*pair)}",
                )


@rule("overlap-in-range", "warning", needs_tree=True)
def overlap_in_range(subject: Subject) -> Iterator[Found]:
    """Nothing overlaps while one joint moves through its range, and the others are at zero."""
    pairs = subject.around.pairs.judged
    first = 1 + len(subject.postures)
    for number, pair in enumerate(pairs):
        if (subject.distances[:first, number] < -_TOUCHING).any():
            continue
        row = first
        for way in subject.sweeps:
            distances = subject.distances[row : row + len(way.positions), number]
            row += len(way.positions)
            if len(distances) and distances.min() < -_TOUCHING:
                worst = int(np.argmin(distances))
                value = float(way.positions[worst][subject.tree.coordinate(way.joint)])
                at = show(value, dimension_of("position", way.motion), 3)
                yield Found(
                    ("joints", way.joint, "limits"),
                    f"{pair[0]} and {pair[1]} overlap by "
                    f"{show(-float(distances.min()), 'length', 3)} with {way.joint} at {at}",
                    f"narrow its limits; or, if they do not meet there, {_remedy(*pair)}",
                )
                break


def _shrinking(subject: Subject, cluster: Cluster) -> str:
    """How the shapes of two links may part; no clearance that would leave little of them."""
    first, _, last = cluster.links
    thinnest = min(_thinnest(subject, name) for name in (first, last))
    if cluster.clearance > _COARSE * thinnest:
        return f"fit closer shapes to {first} and {last}: collision: pieces, or shapes of your own"
    clearance = show(cluster.clearance, "length", 3)
    return f"shrink both, with a clearance of {clearance} in their collision"


def _thinnest(subject: Subject, name: str) -> float:
    """The shortest side of a link's collision shapes, the least of them [m]."""
    shapes = subject.robot.links[name].collisions
    return min(float(np.ptp(placed.shape.mesh.vertices, axis=0).min()) for placed in shapes)


def _clusters(subject: Subject) -> list[Cluster]:
    return clusters(subject.robot, subject.around)


def _remedy(first: str, second: str) -> str:
    return (
        "fit closer shapes (collision: auto or pieces, or a clearance), or allowances: "
        f"[{{between: [{first}, {second}]}}]"
    )
