"""Which kind of joint a way to move is, and how sure that is."""

from __future__ import annotations

import numpy as np

from mooring.cad.proposing.axes import round_axis
from mooring.cad.proposing.clusters import Clusters
from mooring.cad.proposing.moving import Edge, usable
from mooring.cad.proposing.proposal import Confidence, Kind, ProposedJoint
from mooring.cad.proposing.ways import Way
from mooring.units import show

_QUARTER_TURN = float(np.pi / 2)
_SLIDE_RATIO = 3.0
"""A slide's long member is at least this many times as long as its short one."""


def joints_of(
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
            name, "spherical", names[pair[0]], names[pair[1]], way.origin, way.direction,
            (0.0, 0.0), way.found, "high",
            ("universal or revolute, if something keeps it from turning",), False, parts,
        )  # fmt: skip
    kind, reason, confidence, might = _kind(clusters, way, can)
    travel = _QUARTER_TURN
    if kind == "prismatic":
        travel = _room(clusters, pair, way)
    return ProposedJoint(
        name, kind, names[pair[0]], names[pair[1]], way.origin, way.direction,
        (-travel, travel), reason, confidence, might, False, parts,
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
    wheel = way.fit is not None and round_axis(clusters, clusters.of(way.fit.bore)) is not None
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
        points = np.concatenate([part.vertices for part in parts]) @ way.direction
        lengths.append(float(np.ptp(points)))
    # The guided body's own length along the slide is the most it could go.
    return 0.4 * min(lengths)
