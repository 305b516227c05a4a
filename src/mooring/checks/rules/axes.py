"""Rules on where the axes of joints are."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from mooring.cad import Part
from mooring.cad.surfaces import CylindricalFace, on_an_axis
from mooring.cad.touching.revolution import is_ball, roundness
from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.geometry import Array
from mooring.model import Joint
from mooring.units import show

_SAME_LINE = (0.2e-3, np.radians(0.5))
"""How far from a bore an axis may be that goes through it [m, rad]."""
_NEAR_LINE = (30e-3, np.radians(5))
"""How far an axis may be from a bore that it was meant to go through."""
_EVEN = 0.04
"""Share of a round part's surface that may not be round."""
_FAR = 1.0
"""How far from a part its axis may be, as a share of the part's size."""


@rule("axis-misses-bore", "warning", needs_tree=True)
def axis_misses_bore(subject: Subject) -> Iterator[Found]:
    """An axis near a bore that both links share goes through it."""
    robot = subject.robot
    for joint in _turning(subject):
        child, parent = robot.links[joint.child], robot.links[joint.parent]
        if child.cad_frame is not None or parent.cad_frame is not None:
            continue
        origin, axis = _in_cad(subject, joint)
        shared = _shared_bores(parent.parts, child.parts)
        if not shared:
            continue
        off = [_apart(origin, axis, bore.centre, bore.direction) for bore in shared]
        if any(way <= _SAME_LINE[0] and turn <= _SAME_LINE[1] for way, turn in off):
            continue
        way, turn = min(off)
        if way <= _NEAR_LINE[0] and turn <= _NEAR_LINE[1]:
            yield Found(
                ("joints", joint.name, "at"),
                f"joint {joint.name!r}: its axis misses the bore that {joint.parent} and "
                f"{joint.child} share by {show(way, 'length', 2)} and {show(turn, 'angle', 2)}",
                f"take the axis from the CAD: at: {{bore: [{joint.parent}'s part, "
                f"{joint.child}'s part]}}",
            )


@rule("axis-far", "warning", needs_tree=True)
def axis_far(subject: Subject) -> Iterator[Found]:
    """A part turns about an axis that is near it."""
    robot = subject.robot
    for joint in _turning(subject):
        points = subject.seen[joint.child]
        if not len(points) or robot.links[joint.child].carrier:
            continue
        # In the child's own frame at zero, which is the joint's.
        axis = np.array(joint.axis)
        across = points - np.outer(points @ axis, axis)
        size = float(np.linalg.norm(np.ptp(points, axis=0)))
        low, high = across.min(axis=0), across.max(axis=0)
        away = float(np.linalg.norm(np.maximum(np.maximum(low, -high), 0)))
        if away > _FAR * size:
            yield Found(
                ("joints", joint.name, "at"),
                f"joint {joint.name!r} turns {joint.child} about an axis "
                f"{show(away, 'length', 3)} away from it, which is {show(size, 'length', 3)} large",
                "check where the joint is: its place is measured from the parent link, unless it "
                "says relative_to: cad",
            )


@rule("axes-in-a-row", "warning", needs_tree=True)
def axes_in_a_row(subject: Subject) -> Iterator[Found]:
    """Of two joints in a row on one axis, what is between them is no mere pin, ring or bush."""
    robot = subject.robot
    turning = list(_turning(subject))
    for inner in turning:
        link = robot.links[inner.child]
        outer = [joint for joint in turning if joint.parent == inner.child]
        if len(outer) != 1 or not link.parts or link.cad_frame is not None:
            continue
        origin, axis = _in_cad(subject, inner)
        way, turn = _apart(*_in_cad(subject, outer[0]), origin, axis)
        if way > _SAME_LINE[0] or turn > _SAME_LINE[1] or not _round(link.parts, origin, axis):
            continue
        yield Found(
            ("joints", outer[0].name),
            f"joints {inner.name!r} and {outer[0].name!r} turn about one axis, with nothing "
            f"between them but {link.name}, which is round about it",
            f"let {link.name}'s parts belong to {inner.parent} or {outer[0].child}, and leave "
            "one of the joints out",
        )


def _round(parts: tuple[Part, ...], origin: Array, axis: Array) -> bool:
    """Whether parts look the same however they are turned about an axis; balls do not count."""
    for part in parts:
        own = None if is_ball(part) else roundness(part.geometry)
        if own is None and is_ball(part):
            continue
        if own is None or own.uneven > _EVEN:
            return False
        placed = own.placed(part.placement)
        way, turn = _apart(placed.origin, placed.direction, origin, axis)
        if way > _SAME_LINE[0] or turn > _SAME_LINE[1]:
            return False
    return True


def _turning(subject: Subject) -> Iterator[Joint]:
    for joint in subject.robot.joints.values():
        if joint.has_axis and joint.motion == "rotation":
            yield joint


def _in_cad(subject: Subject, joint: Joint) -> tuple[Array, Array]:
    """A point on a joint's axis and its direction, in CAD coordinates."""
    place = subject.frames[joint.child]
    return place[:3, 3], place[:3, :3] @ np.array(joint.axis)


def _shared_bores(one: tuple[Part, ...], other: tuple[Part, ...]) -> list[CylindricalFace]:
    """Bores of one link that share their axis with a bore or pin of the other."""
    found = []
    for bores, rounds in ((one, other), (other, one)):
        faces = [face for part in rounds for face in part.cylinders]
        holes = [bore for part in bores for bore in part.bores]
        found += [bore for bore, is_shared in zip(holes, on_an_axis(holes, faces), strict=True)
                  if is_shared]  # fmt: skip
    return found


def _apart(point: Array, axis: Array, at: Array, along: Array) -> tuple[float, float]:
    """How far a point is from a line, and the angle between an axis and the line."""
    way = point - at
    distance = float(np.linalg.norm(way - (way @ along) * along))
    sine = float(np.linalg.norm(np.cross(axis, along)))
    return distance, float(np.arcsin(min(1.0, sine)))
