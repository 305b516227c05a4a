"""Rules on links that overlap."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from mooring.checks.rule import Found, rule
from mooring.checks.subject import TOUCHING, Subject
from mooring.exercising.sweeps import Sweep
from mooring.kinematics.overlaps import Cluster, clusters
from mooring.model.definition.fields import dimension_of
from mooring.units import show

_COARSE = 0.2
"""A clearance of more than this share of a shape's shortest side would leave little of it."""
_HALVINGS = 10
_LISTED = 3
Pair = tuple[str, str]


@rule("collision-none", "note", needs_tree=True)
def collision_none(subject: Subject) -> Iterator[Found]:
    """A moving link that can be seen can be hit; one that nothing is to hit says so."""
    robot = subject.robot
    moving = {joint.child for joint in robot.joints.values() if joint.moves}
    if not any(link.collisions for link in robot.links.values()):
        return
    for name in robot.links:
        link = robot.links[name]
        seen = bool(link.parts or link.visuals)
        if name in moving and seen and link.collision is None and not link.shapes:
            yield Found(
                ("links", name),
                f"link {name!r} moves, and nothing is said of what it collides with",
                "add collision: auto, or collision: none if nothing is to hit it",
                in_urdf="give it a <collision>, if anything is to hit it",
                like="none",
            )


@rule("overlap-neutral", "error", needs_tree=True)
def overlap_neutral(subject: Subject) -> Iterator[Found]:
    """Nothing overlaps at the neutral posture."""
    clustered = {frozenset((c.links[0], c.links[2])) for c in _clusters(subject)}
    for pair, depth in _at(subject, 0).items():
        if frozenset(pair) not in clustered:
            yield Found(
                ("links", pair[0], "collision"),
                f"{pair[0]} and {pair[1]} overlap by {show(depth, 'length', 3)} at the neutral "
                "posture",
                _remedy(*pair),
                in_urdf=_remedy_in_urdf(*pair),
                like=f"{depth:.5g}",
                called=" and ".join(pair),
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
            in_urdf=_remedy_in_urdf(first, last),
            like=f"{cluster.depth:.5g}",
            called=f"{first} and {last}",
        )


@rule("overlap-in-posture", "error", needs_tree=True)
def overlap_in_posture(subject: Subject) -> Iterator[Found]:
    """Nothing overlaps in a named posture."""
    before = _at(subject, 0)
    for number, name in enumerate(subject.postures, start=1):
        for pair, depth in _at(subject, number).items():
            if pair not in before:
                yield Found(
                    ("postures", name),
                    f"in posture {name!r} {pair[0]} and {pair[1]} overlap by "
                    f"{show(depth, 'length', 3)}",
                    f"change the posture; or, if they do not meet there, {_remedy(*pair)}",
                )


@rule("overlap-in-range", "warning", needs_tree=True)
def overlap_in_range(subject: Subject) -> Iterator[Found]:
    """Nothing overlaps while one joint moves through its range, and the others are at zero."""
    met = subject.overlaps
    first = 1 + len(subject.postures)
    links = subject.tree.links
    early = met.state < first
    known = set(zip(met.first[early].tolist(), met.second[early].tolist(), strict=True))
    row = first
    for way in subject.sweeps:
        begin, end = np.searchsorted(met.state, [row, row + len(way.positions)])
        here: dict[Pair, list[tuple[int, float]]] = {}
        for k in range(begin, end):
            one, other = int(met.first[k]), int(met.second[k])
            if (one, other) not in known:
                at = int(met.state[k]) - row
                here.setdefault((links[one], links[other]), []).append((at, float(met.distance[k])))
        row += len(way.positions)
        if here:
            yield _in_range(subject, way, here)


def _in_range(subject: Subject, way: Sweep, here: dict[Pair, list[tuple[int, float]]]) -> Found:
    """What meets on the way of a joint, and how far it goes without."""
    dimension = dimension_of("position", way.motion)
    at = subject.tree.coordinate(way.joint)
    rows = {row for seen in here.values() for row, _ in seen}
    free = [_free_end(subject, way, sorted(r for r in rows if r < way.home)[-1:], here),
            _free_end(subject, way, sorted(r for r in rows if r > way.home)[:1], here)]  # fmt: skip
    ends = [
        float(way.positions[-side][at]) if end is None else end
        for side, end in zip((0, 1), free, strict=True)
    ]
    depths = {pair: -min(depth for _, depth in seen) for pair, seen in here.items()}
    worst = max(depths, key=depths.__getitem__)
    worst_row = min(here[worst], key=lambda one: one[1])[0]
    value = show(float(way.positions[worst_row][at]), dimension, 3)
    others = [" and ".join(pair) for pair in depths if pair != worst]
    more = ", ".join(others[:_LISTED]) + (
        f" and {len(others) - _LISTED} more pairs" if len(others) > _LISTED else ""
    )
    limits = " to ".join(show(_inwards(end, side), dimension, 3)
                         for end, side in zip(ends, (1, -1), strict=True))  # fmt: skip
    lower, upper = (f"{_inwards(end, side):.4g}" for end, side in zip(ends, (1, -1), strict=True))
    narrow = f"narrow its limits to {limits}, where nothing meets"
    return Found(
        ("joints", way.joint, "limits"),
        f"{worst[0]} and {worst[1]} overlap by {show(depths[worst], 'length', 3)} with "
        f"{way.joint} at {value}" + (f"; so do {more}" if more else ""),
        f"{narrow}; or, if they do not meet there, {_remedy(*worst)}",
        in_urdf=f'{narrow}: lower="{lower}" upper="{upper}"; or part their <collision> shapes',
        like=" ".join(sorted(f"{abs(end):.3g}" for end in ends)) + f" {depths[worst]:.4g}",
        called=way.joint,
    )


def _free_end(
    subject: Subject, way: Sweep, met: list[int], here: dict[Pair, list[tuple[int, float]]]
) -> float | None:
    """How far a joint goes before anything meets that met at a row; None where nothing does."""
    if not met:
        return None
    at = subject.tree.coordinate(way.joint)
    blocked = way.positions[met[0]]
    free = way.positions[met[0] + (1 if met[0] < way.home else -1)]
    pairs = [pair for pair, seen in here.items() if any(row == met[0] for row, _ in seen)]
    tied = len(subject.tree.loops.follower) + len(subject.tree.loops.first) > 0
    good, bad = float(free[at]), float(blocked[at])
    for _ in range(0 if tied else _HALVINGS):
        q = np.array(free)
        q[at] = (good + bad) / 2
        distances, _ = subject.around.distances(q, pairs, 1e-9)
        if (distances < -TOUCHING).any():
            bad = float(q[at])
        else:
            good = float(q[at])
    return good


def _inwards(end: float, side: int) -> float:
    """An end rounded to three digits, and not beyond it."""
    if end == 0 or not np.isfinite(end):
        return end
    step = 10.0 ** (np.floor(np.log10(abs(end))) - 2)
    return float((np.ceil if side > 0 else np.floor)(end / step - side * 1e-9) * step)


def _at(subject: Subject, state: int) -> dict[Pair, float]:
    """How deep pairs of links overlap at a position [m]."""
    met, links = subject.overlaps, subject.tree.links
    begin, end = np.searchsorted(met.state, [state, state + 1])
    return {
        (links[int(met.first[k])], links[int(met.second[k])]): -float(met.distance[k])
        for k in range(begin, end)
    }


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
    return subject.robot.remembered(
        "overlapping clusters", lambda: clusters(subject.robot, subject.around)
    )


def _remedy(first: str, second: str) -> str:
    return (
        "fit closer shapes (collision: auto or pieces, or a clearance), or allowances: "
        f"[{{between: [{first}, {second}]}}]"
    )


def _remedy_in_urdf(first: str, second: str) -> str:
    return (
        f"part the <collision> shapes of {first} and {second}, or make them smaller; or, if they "
        "may overlap, include the file in a document, and say so there: allowances: "
        f"[{{between: [{first}, {second}]}}]"
    )
