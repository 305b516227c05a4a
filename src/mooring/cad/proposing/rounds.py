"""Pins, bushes, rings, shafts and wheels: of what is round about one axis, who turns with whom.

Nobody sees a body of revolution turn. So of all that is round about one axis, each piece goes with
one of the bodies that are not, or stays by itself; and of each chain of pieces between two bodies
one place turns: where the evidence for a running fit is strongest.
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass, field

import numpy as np

from mooring.cad.part import Part
from mooring.cad.proposing.clusters import Between, Clusters
from mooring.cad.proposing.survey import ROUND, on_axis
from mooring.cad.solid import sum_of_solids
from mooring.cad.touching.mates import Fit, Mate
from mooring.cad.touching.revolution import Round
from mooring.geometry import frame_along
from mooring.units import show

_LARGE = 0.02
"""Of what it sits in, the share of volume from which a plain round piece may be a rotor."""
_TIE = 0.55
"""Difference of weights below which nothing tells one from the other."""
_WHOLE = 0.8
"""Share of an end face from which on it lies against something all over."""
_TIGHT = 1e-5
"""[m]; faces no farther apart are clamped, where a screw goes through."""
_BUSH = 3.0
"""A ring shorter than so many of its diameters may be a bush or bearing."""


@dataclass(frozen=True)
class Hold:
    """How much speaks for two pieces turning together.

    Attributes:
        weight: more than zero where more speaks for it than against.
        words: what does.
        runs: at how many places the one runs in bushes or bearings of the other.
        through: whether a rod goes on far on both sides of the other.
    """

    weight: float
    words: tuple[str, ...]
    runs: int = 0
    through: bool = False

    @property
    def why(self) -> str:
        """All that was weighed."""
        return ", ".join(self.words) or "nothing tells"


@dataclass(eq=False)
class _Group:
    """What is round about one axis and hangs together.

    Attributes:
        axis: of all.
        pieces: roots of the round clusters.
        bodies: roots of the clusters they touch that are not round.
        holds: of each pair of neighbours.
    """

    axis: Round
    pieces: list[str]
    bodies: list[str] = field(default_factory=list)
    holds: dict[tuple[str, str], Hold] = field(default_factory=dict)


def settle_rounds(clusters: Clusters) -> bool:
    """Put round pieces with what they turn with; whether anything was joined."""
    joined = False
    for group in _groups(clusters):
        # What was joined a moment ago may have changed others; they have their turn again.
        if all(root in clusters.members for root in (*group.pieces, *group.bodies)):
            joined |= _settle(clusters, group)
    return joined


def axis_of(clusters: Clusters, root: str) -> Round | None:
    """The axis a whole cluster is round about, or balanced about while it touches nothing else."""
    seen = clusters.seen
    found: Round | None = None
    for name in clusters.members[root]:
        own = seen.rounds[name]
        if name in seen.screws or name in seen.balls:
            continue
        if own is None:
            return None
        if own.uneven > ROUND and not (
            clusters.why.get(root) and any("rolls about" in w for w in clusters.why[root])
        ):
            return None
        if own.uneven > ROUND:
            continue
        if found is not None and not on_axis(
            found.origin, found.direction, own.origin, own.direction
        ):
            return None
        found = found or own
    return found


def piece_axis(clusters: Clusters, root: str) -> Round | None:
    """The axis of a round cluster, or of one that is as good as round: a gear, a spoked wheel."""
    return axis_of(clusters, root) or _wheel_axis(clusters, root)


def _wheel_axis(clusters: Clusters, root: str) -> Round | None:
    """The axis of a gear or a wheel with spokes: all fits are about it, and it is balanced."""
    fits = [fit for between in clusters.near(root).values() for fit in between.fits]
    if not fits:
        return None
    first = fits[0]
    for fit in fits[1:]:
        if not on_axis(first.origin, first.direction, fit.origin, fit.direction):
            return None
    if not balanced(clusters, root, first):
        return None
    return Round(first.origin, first.direction, 0.0)


def balanced(clusters: Clusters, root: str, fit: Fit) -> bool:
    """Whether a cluster turns about an axis without shaking, as a wheel does."""
    whole = sum_of_solids([clusters.seen.parts[name].solid for name in clusters.members[root]])
    frame = frame_along(fit.direction)
    moments = frame.T @ whole.inertia @ frame
    arm = whole.centroid - fit.origin
    aside = np.linalg.norm(arm - fit.direction * (arm @ fit.direction))
    uneven = abs(moments[0, 0] - moments[1, 1]) + abs(moments[0, 1])
    tilted = np.abs(moments[:2, 2]).max()
    return bool(aside < 2e-4 and max(uneven, tilted) < 0.01 * moments[2, 2])


def _groups(clusters: Clusters) -> list[_Group]:
    axes: dict[str, Round] = {}
    for root in clusters.members:
        axis = piece_axis(clusters, root)
        if axis is not None and _only_about(clusters, root, axis):
            axes[root] = axis
    groups: list[_Group] = []
    done: set[str] = set()
    for root, axis in axes.items():
        if root in done:
            continue
        group = _Group(axis, [])
        waiting = deque([root])
        done.add(root)
        while waiting:
            here = waiting.popleft()
            group.pieces.append(here)
            for other, between in clusters.near(here).items():
                if not _coaxial(between, axis) or _mere_shoulder(clusters, between, here, axis):
                    continue
                pair = (min(here, other), max(here, other))
                if other in axes:
                    if not on_axis(
                        axis.origin, axis.direction, axes[other].origin, axes[other].direction
                    ):
                        continue
                    group.holds.setdefault(pair, _hold(clusters, between, axis))
                    if other not in done:
                        done.add(other)
                        waiting.append(other)
                else:
                    group.holds.setdefault(pair, _hold(clusters, between, axis))
                    if other not in group.bodies:
                        group.bodies.append(other)
        if group.holds:
            groups.append(group)
    return groups


def _only_about(clusters: Clusters, root: str, axis: Round) -> bool:
    """Whether all that guides a cluster is about one axis."""
    return any(_coaxial(between, axis) for between in clusters.near(root).values()) and all(
        on_axis(axis.origin, axis.direction, fit.origin, fit.direction)
        for between in clusters.near(root).values()
        for fit in between.fits
    )


def _coaxial(between: Between, axis: Round) -> bool:
    if between.fits:
        fit = between.fits[0]
        return on_axis(axis.origin, axis.direction, fit.origin, fit.direction)
    _, normals = between.pushes
    # Shoulders of rings that lie against each other.
    return bool(len(normals)) and bool((np.abs(normals @ axis.direction) > 0.999).all())


def _mere_shoulder(clusters: Clusters, between: Between, root: str, axis: Round) -> bool:
    """Whether a piece that is guided elsewhere only lies against another, and has no seat there.

    Rings of one diameter sit on each other, and a ring through which only another body goes sits
    on what it lies against.
    """
    if between.fits or not any(other.fits for other in clusters.near(root).values()):
        return False
    radii = _rims(clusters, between, axis)
    if radii is not None and abs(radii[0] - radii[1]) < 0.01 * radii[0]:
        return False
    return not _is_seat(clusters, between, root)


def _is_seat(clusters: Clusters, between: Between, root: str) -> bool:
    """Whether an end face of a piece lies against another all over, and its fits are elsewhere."""
    near = clusters.near(root)
    partners = [other for other, there in near.items() if there.fits]
    if any(near[o] is between or piece_axis(clusters, o) is not None for o in partners):
        return False
    for mate in between.mates:
        name = mate.first if clusters.of(mate.first) == root else mate.second
        other = mate.second if name == mate.first else mate.first
        if not len(mate.points) or _is_bush(clusters, name):
            continue
        ends = [_end_face(clusters.seen.parts[n], mate) for n in (name, other)]
        rims = [_rim(clusters, n) for n in (name, other)]
        hollow = mate.area > _WHOLE * ends[1] > 0 and rims[1] > _WHOLE * rims[0] > 0
        if ends[0] > 0 and (mate.area > _WHOLE * ends[0] or hollow):
            return True
    return False


def _rim(clusters: Clusters, name: str) -> float:
    """The radius of the widest round face of a part about its own axis [m]."""
    axis = clusters.seen.rounds[name]
    if axis is None:
        return 0.0
    return max(
        (
            face.radius
            for face in clusters.seen.parts[name].cylinders
            if face.kind == "pin"
            and on_axis(axis.origin, axis.direction, face.centre, face.direction)
        ),
        default=0.0,
    )


def _end_face(part: Part, mate: Mate) -> float:
    """The area of the flat face of a part that is in a mate [m^2]."""
    normal, point = mate.normals[0], mate.points[0]
    return sum(
        face.area
        for face in part.planes
        if abs(float(face.normal @ normal)) > 0.999
        and abs(float((face.centre - point) @ normal)) < 1e-3
    )


def _hold(clusters: Clusters, between: Between, axis: Round) -> Hold:
    """The evidence for and against turning together."""
    seen = clusters.seen
    if not between.fits:
        radii = _rims(clusters, between, axis)
        if radii is not None and abs(radii[0] - radii[1]) < 0.01 * radii[0]:
            return Hold(1.2, ("rings of one diameter that lie against each other",))
        mate = between.mates[0]
        for name in (mate.first, mate.second):
            if _is_seat(clusters, between, clusters.of(name)):
                kept = seen.together(mate.first, mate.second)
                return Hold(2.2 if kept else 1.6, (f"{name} sits on it with a whole face",))
        return Hold(0.1, ("they only lie against each other",))
    fit = max(between.fits, key=lambda f: f.length)
    weight, words = 1.0, []
    if fit.rolls:
        return Hold(-4.0, ("a rolling bearing",), len(between.fits))
    if fit.pressed:
        return Hold(3.0, (f"{fit.pin} is thicker than its bore and pressed in",))
    if fit.runs:
        weight -= 2.0 + min(1.5, fit.clearance / 2e-4)
        words.append(f"a clearance of {show(2 * fit.clearance, 'length', 2)}")
    else:
        words.append("no clearance")
    rod = fit.beyond[0] > 0.75 * max(fit.length, fit.radius) and between.area == 0
    if rod and not (_is_ring(clusters, fit.bore) and not _seated(clusters, fit.bore)):
        weight -= 1.0
        words.append(f"{fit.pin} goes on far on both sides")
    if fit.blind:
        weight += 0.3
        words.append("the bore has a bottom")
    elif fit.beyond[0] < 0.2 * fit.radius:
        weight += 0.2
        words.append(f"{fit.pin} ends in it")
    if between.area > 0:
        weight += 0.3
        words.append("a shoulder")
    if seen.together(fit.pin, fit.bore):
        weight += 0.6
        words.append("one sub-assembly")
    if _is_bush(clusters, fit.pin):
        weight += 0.5
        words.append(f"{fit.pin} is a bush or bearing")
    elif _is_bush(clusters, fit.bore):
        weight -= 0.7
        words.append(f"{fit.bore} is a bush or bearing")
    runs = len({f.bore for f in between.fits if _is_bush(clusters, f.bore)})
    return Hold(weight, tuple(words), runs, rod)


def _is_ring(clusters: Clusters, name: str) -> bool:
    return clusters.seen.is_round(name)


def _seated(clusters: Clusters, name: str) -> bool:
    root = clusters.of(name)
    return any(
        not between.fits and _is_seat(clusters, between, root)
        for between in clusters.near(root).values()
    )


def _is_bush(clusters: Clusters, name: str) -> bool:
    """Whether a part is a short ring with a body outside and another inside."""
    seen = clusters.seen
    axis = seen.rounds[name]
    if axis is None or not seen.is_round(name):
        return False
    inside = outside = 0
    longest = 0.0
    for other in seen.neighbours[name]:
        mate = seen.mates.get((name, other)) or seen.mates[other, name]
        for fit in mate.fits:
            if not on_axis(axis.origin, axis.direction, fit.origin, fit.direction):
                continue
            inside += fit.bore == name
            if fit.pin == name:
                outside += 1
                longest = max(longest, fit.length / (2 * fit.radius))
    return inside > 0 and outside > 0 and longest < _BUSH


def _rims(clusters: Clusters, between: Between, axis: Round) -> tuple[float, float] | None:
    radii = []
    mate = between.mates[0]
    for name in (mate.first, mate.second):
        pins = [
            face.radius
            for face in clusters.seen.parts[name].cylinders
            if face.kind == "pin"
            and on_axis(axis.origin, axis.direction, face.centre, face.direction)
        ]
        if not pins:
            return None
        radii.append(max(pins))
    return radii[0], radii[1]


def _settle(clusters: Clusters, group: _Group) -> bool:
    if not group.bodies:
        # Everything is round: the largest stands for the body the others are about.
        largest = max(group.pieces, key=clusters.volume)
        group.pieces.remove(largest)
        group.bodies.append(largest)
    home: dict[str, str] = {root: root for root in (*group.pieces, *group.bodies)}
    has_body = set(group.bodies)

    def top(root: str) -> str:
        while home[root] != root:
            root = home[root]
        return root

    kept: list[tuple[str, str]] = []
    order = sorted(
        (pair for pair in group.holds if set(pair) <= home.keys()),
        key=lambda p: (-group.holds[p].weight, -_sizes(clusters, p), p),
    )
    apart = _rotors(group)
    for pair in order:
        a, b = top(pair[0]), top(pair[1])
        if pair in apart or a == b or (a in has_body and b in has_body):
            continue
        kept.append(pair)
        home[b] = a
        if b in has_body:
            has_body.add(a)
    cut = _cuts(clusters, group, kept)
    _note_ties(clusters, group)
    joined = False
    for one, other in kept:
        if (one, other) not in cut:
            why = group.holds[one, other].why
            names = _touching_parts(clusters, one, other)
            joined |= clusters.join(one, other, f"{names[0]} goes with {names[1]}: {why}")
    return joined


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
        found = []
        for _, body in near[:2]:
            one, other = _touching_parts(clusters, piece, body)
            found.append(other if one in ours else one)
        clusters.ties[clusters.members[piece][0]] = (found[0], found[1])


def _rotors(group: _Group) -> set[tuple[str, str]]:
    """The places at which a shaft with all on it runs in two or more bushes or bearings.

    It is told from a pin in bushes by a wheel or drum on it, or by a body that it goes through and
    far beyond, as a spindle through its nut.
    """
    firm = [pair for pair, hold in group.holds.items() if not hold.runs and hold.weight > 0]
    home = {root: root for root in group.pieces}

    def top(root: str) -> str:
        while home[root] != root:
            root = home[root]
        return root

    for a, b in firm:
        if a in home and b in home:
            home[top(b)] = top(a)
    found: set[tuple[str, str]] = set()
    for root in {top(piece) for piece in group.pieces}:
        members = {piece for piece in group.pieces if top(piece) == root}
        edges = [pair for pair in group.holds if len(members & set(pair)) == 1]
        running = [pair for pair in edges if group.holds[pair].runs]
        others = [pair for pair in edges if pair not in running]
        places = sum(group.holds[pair].runs for pair in running)
        if places < 2 or any(group.holds[pair].weight > 0 for pair in others):
            continue
        nuts = [pair for pair in others if group.holds[pair].through]
        if len(members) > 1 or nuts:
            found |= set(edges)
    return found


def _sizes(clusters: Clusters, pair: tuple[str, str]) -> float:
    return clusters.volume(pair[0]) + clusters.volume(pair[1])


def _touching_parts(clusters: Clusters, one: str, other: str) -> tuple[str, str]:
    between = clusters.between(clusters.of(one), clusters.of(other))
    if between is None:
        return one, other
    if between.fits:
        return between.fits[0].pin, between.fits[0].bore
    return between.mates[0].first, between.mates[0].second


def _cuts(clusters: Clusters, group: _Group, kept: list[tuple[str, str]]) -> set[tuple[str, str]]:
    """Where in chains that end at a round piece, as a wheel on an axle, something turns."""
    near: dict[str, list[str]] = {}
    for a, b in kept:
        near.setdefault(a, []).append(b)
        near.setdefault(b, []).append(a)
    paths: list[list[tuple[str, str]]] = []
    for body in group.bodies:
        waiting: deque[tuple[str, list[tuple[str, str]]]] = deque([(body, [])])
        reached = {body}
        while waiting:
            here, path = waiting.popleft()
            ahead = [b for b in near.get(here, []) if b not in reached]
            if not ahead and path:
                paths.append(path)
            for b in ahead:
                reached.add(b)
                waiting.append((b, [*path, (here, b)]))
    chosen: set[tuple[str, str]] = set()
    turning = len(group.bodies) > 1 or any(
        _turns_already(clusters, group, body) for body in group.bodies
    )
    found = []
    for path in paths:
        weakest = min(path, key=lambda e: (round(_weight(group, e), 2), path.index(e)))
        found.append((_weight(group, weakest), path.index(weakest), path, weakest))
    for _, _, path, weakest in sorted(found, key=lambda f: (f[0], f[1])):
        if any(edge in chosen for edge in path):
            continue
        beyond = _beyond(near, weakest)
        if _joins_bodies(group, path, beyond):
            continue
        if _turns(clusters, group, weakest, beyond, turning):
            chosen.add(weakest)
    return {(a, b) if (a, b) in group.holds else (b, a) for a, b in chosen}


def _turns_already(clusters: Clusters, group: _Group, body: str) -> bool:
    """Whether a body itself turns about the group's axis against something else."""
    axis = group.axis
    return any(
        on_axis(axis.origin, axis.direction, fit.origin, fit.direction)
        for other, between in clusters.near(body).items()
        if other not in group.pieces and piece_axis(clusters, other) is None
        for fit in between.fits
    )


def _joins_bodies(group: _Group, path: list[tuple[str, str]], beyond: list[str]) -> bool:
    """Whether what hangs on a path sits in another body as well, as a pin between two."""
    body = path[0][0]
    return any(
        set(pair) & set(beyond) and set(pair) & (set(group.bodies) - {body}) for pair in group.holds
    )


def _weight(group: _Group, edge: tuple[str, str]) -> float:
    return group.holds[min(edge), max(edge)].weight


def _beyond(near: dict[str, list[str]], edge: tuple[str, str]) -> list[str]:
    """All that hangs on the far side of an edge."""
    reached, waiting = {edge[0], edge[1]}, [edge[1]]
    found = [edge[1]]
    while waiting:
        for b in near.get(waiting.pop(), []):
            if b not in reached:
                reached.add(b)
                waiting.append(b)
                found.append(b)
    return found


def _turns(
    clusters: Clusters,
    group: _Group,
    edge: tuple[str, str],
    beyond: list[str],
    turning: bool,
) -> bool:
    """Whether what hangs on the far side of an edge turns by itself."""
    between = clusters.between(edge[0], edge[1])
    if between is None or not between.fits:
        return False
    fit = max(between.fits, key=lambda f: f.length)
    members = {name for root in beyond for name in clusters.members[root]}
    if members <= clusters.seen.screws or fit.pressed:
        return False
    volume = sum(clusters.volume(root) for root in beyond)
    large = volume > _LARGE * clusters.volume(edge[0])
    outside = fit.bore in members
    if fit.rolls:
        return True
    if _clamped(clusters, members, fit):
        return False
    if fit.runs:
        return large or outside or len(members) > 1
    if turning or _weight(group, edge) > 2.0:
        return False
    # Nominal sizes say nothing: a wheel about a stub turns, a plug or a dowel does not.
    return outside or large


def _clamped(clusters: Clusters, members: set[str], fit: Fit) -> bool:
    """Whether a ring on a screw is clamped between two other parts, as a spacer is."""
    seen = clusters.seen
    if fit.pin not in seen.screws or fit.bore not in members:
        return False
    ends = [
        other
        for other in seen.neighbours[fit.bore]
        if other not in members
        and other != fit.pin
        and len((mate := seen.mates.get((fit.bore, other)) or seen.mates[other, fit.bore]).points)
        and mate.gap < _TIGHT
    ]
    return len(ends) >= 2
