"""What speaks for two neighbours about one axis turning together, and what against it."""

from __future__ import annotations

from dataclasses import dataclass

from mooring.cad.part import Part
from mooring.cad.proposing.axes import piece_axis
from mooring.cad.proposing.clusters import Between, Clusters
from mooring.cad.touching.lines import Axial, Line, same_axis
from mooring.cad.touching.meetings import Fit, Meeting
from mooring.units import show

_WHOLE = 0.8
"""Share of an end face from which on it lies against something all over."""
_EQUAL_RIMS = 0.01
_BUSH = 3.0
"""A ring shorter than so many of its diameters may be a bush or bearing."""
_ROD = 0.75
"""Of its bore's length, how far a rod goes on on both sides."""


@dataclass(frozen=True)
class Hold:
    """How much speaks for two pieces turning together.

    Attributes:
        weight: more than zero where more speaks for it than against.
        words: what does.
        runs: at how many places the one runs in bushes or bearings of the other.
        through: whether a rod goes on far on both sides of the other.
        clear: whether there is room between the two, or something rolls there.
    """

    weight: float
    words: tuple[str, ...]
    runs: int = 0
    through: bool = False
    clear: bool = False

    @property
    def why(self) -> str:
        """All that was weighed."""
        return ", ".join(self.words)


def hold_of(clusters: Clusters, between: Between, axis: Axial) -> Hold:
    """The evidence for and against two neighbours turning together."""
    if not between.fits:
        return _lying(clusters, between, axis)
    fit = max(between.fits, key=lambda f: f.length)
    if fit.rolls:
        return Hold(-4.0, ("a rolling bearing",), len(between.fits), clear=True)
    if fit.pressed:
        return Hold(3.0, (f"{fit.pin} is thicker than its bore and pressed in",))
    return _fitted(clusters, between, fit)


def _lying(clusters: Clusters, between: Between, axis: Axial) -> Hold:
    if _equal_rims(clusters, between, axis):
        return Hold(1.2, ("rings of one diameter that lie against each other",))
    meeting = between.meetings[0]
    for name in (meeting.first, meeting.second):
        if _is_seat(clusters, between, clusters.of(name)):
            kept = clusters.seen.together(meeting.first, meeting.second)
            return Hold(2.2 if kept else 1.6, (f"{name} sits on it with a whole face",))
    return Hold(0.1, ("they only lie against each other",))


def _fitted(clusters: Clusters, between: Between, fit: Fit) -> Hold:
    seen = clusters.seen
    found: list[tuple[float, str]] = []
    if fit.runs:
        clearance = show(2 * fit.clearance, "length", 2)
        found.append((-1.0 - min(1.5, fit.clearance / 2e-4), f"a clearance of {clearance}"))
    else:
        found.append((1.0, "no clearance"))
    rod = fit.beyond[0] > _ROD * max(fit.length, fit.radius) and between.area == 0
    if rod and (not seen.is_round(fit.bore) or _has_seat(clusters, fit.bore)):
        found.append((-1.0, f"{fit.pin} goes on far on both sides"))
    if fit.blind:
        found.append((0.3, "the bore has a bottom"))
    elif fit.beyond[0] < 0.2 * fit.radius:
        found.append((0.2, f"{fit.pin} ends in it"))
    if between.area > 0:
        found.append((0.3, "a shoulder"))
    if seen.together(fit.pin, fit.bore):
        found.append((0.6, "one sub-assembly"))
    if is_bush(clusters, fit.pin):
        found.append((0.5, f"{fit.pin} is a bush or bearing"))
    elif is_bush(clusters, fit.bore):
        found.append((-0.7, f"{fit.bore} is a bush or bearing"))
    runs = len({f.bore for f in between.fits if is_bush(clusters, f.bore)})
    return Hold(sum(w for w, _ in found), tuple(words for _, words in found), runs, rod, fit.runs)


def is_mere_shoulder(clusters: Clusters, between: Between, root: str, axis: Axial) -> bool:
    """Whether a piece that is guided elsewhere only lies against another, and has no seat there.

    Rings of one diameter sit on each other, and a ring through which only another body goes sits
    on what it lies against.
    """
    if between.fits or not any(other.fits for other in clusters.near(root).values()):
        return False
    return not _equal_rims(clusters, between, axis) and not _is_seat(clusters, between, root)


def is_bush(clusters: Clusters, name: str) -> bool:
    """Whether a part is a short ring with a body outside and another inside."""
    seen = clusters.seen
    axis = seen.rounds[name]
    if axis is None or not seen.is_round(name):
        return False
    fits = [
        fit
        for other in seen.neighbours[name]
        for fit in seen.meeting(name, other).fits
        if same_axis(axis, fit)
    ]
    outside = [fit.length / (2 * fit.radius) for fit in fits if fit.pin == name]
    return len(fits) > len(outside) > 0 and max(outside) < _BUSH


def _has_seat(clusters: Clusters, name: str) -> bool:
    root = clusters.of(name)
    return any(
        not between.fits and _is_seat(clusters, between, root)
        for between in clusters.near(root).values()
    )


def _is_seat(clusters: Clusters, between: Between, root: str) -> bool:
    """Whether an end face of a piece lies against another all over, and its fits are elsewhere."""
    near = clusters.near(root)
    partners = [other for other, there in near.items() if there.fits]
    if any(near[o] is between or piece_axis(clusters, o) is not None for o in partners):
        return False
    parts = clusters.seen.parts
    for meeting in between.meetings:
        name, other = meeting.first, meeting.second
        if clusters.of(name) != root:
            name, other = other, name
        if not len(meeting.points) or is_bush(clusters, name):
            continue
        own, others = _end_face(parts[name], meeting), _end_face(parts[other], meeting)
        rims = [_rim(parts[n], clusters.seen.rounds[n]) for n in (name, other)]
        hollow = meeting.area > _WHOLE * others > 0 and rims[1] > _WHOLE * rims[0] > 0
        if own > 0 and (meeting.area > _WHOLE * own or hollow):
            return True
    return False


def _end_face(part: Part, meeting: Meeting) -> float:
    """The area of the flat face of a part that is in a meeting [m^2]."""
    normal, point = meeting.normals[0], meeting.points[0]
    return sum(
        face.area
        for face in part.planes
        if abs(float(face.normal @ normal)) > 0.999
        and abs(float((face.centre - point) @ normal)) < 1e-3
    )


def _equal_rims(clusters: Clusters, between: Between, axis: Axial) -> bool:
    meeting = between.meetings[0]
    parts = clusters.seen.parts
    one, other = (_rim(parts[name], axis) for name in (meeting.first, meeting.second))
    return min(one, other) > 0 and abs(one - other) < _EQUAL_RIMS * one


def _rim(part: Part, axis: Axial | None) -> float:
    """The radius of the widest round face of a part about an axis; 0 where there is none [m]."""
    return max(
        (
            face.radius
            for face in part.cylinders
            if axis is not None
            and face.kind == "pin"
            and same_axis(axis, Line(face.centre, face.direction))
        ),
        default=0.0,
    )
