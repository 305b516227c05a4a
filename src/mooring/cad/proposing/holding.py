"""What holds parts that lie on each other, as long as it locks no joint."""

from __future__ import annotations

import re
from collections import deque
from collections.abc import Iterator

import numpy as np

from mooring.cad.proposing.axes import balanced, round_axis, wheel_axis
from mooring.cad.proposing.clusters import Between, Clusters
from mooring.cad.proposing.ways import Way, held_by_pins, way_of
from mooring.cad.touching.lines import same_axis
from mooring.cad.touching.meetings import Fit

_EQUAL = 1e-4
"""Share by which the volumes of equal parts may differ."""
_POCKET = 2
"""Freedoms, one way or both, of what lies in a pocket."""
_STILL = 1e-3
_FLEXIBLE = re.compile(
    r"(?<![a-z])(?:belt|timing_?belt|chain|rope|cable|hose|wire|cord|string|riemen|zahnriemen|kette|"
    r"seil|kabel|schlauch|courroie|chaine|chaîne|corde|tuyau|correa|cadena|cuerda|manguera|"
    r"cinghia|catena|fune|cavo|tubo_flessibile|皮带|链条|绳|电缆|软管|"
    r"ベルト|チェーン|ロープ|ケーブル|ホース)s?[\W\d_]*$",
    re.IGNORECASE,
)


def hold_by_shape(clusters: Clusters) -> bool:
    """Join what pins hold on two axes, hubs that are keyed on their shafts; whether any was."""
    joined = False
    for a, b, between in list(clusters.pairs()):
        # What was joined a moment ago may have changed the pair; it has its turn again.
        current = a in clusters.members and clusters.between(a, b) is between
        if not current or not between.fits:
            continue
        first = between.axes[0]
        if held_by_pins(between):
            words = f"{len(between.axes)} pins hold {first.pin} to {first.bore}"
            joined |= clusters.join(a, b, words)
            continue
        way = way_of(between)
        if way is None:
            words = f"{first.pin} cannot move in {first.bore}"
            joined |= clusters.join(a, b, words)
        elif not way.turns and len(between.axes) == 1 and _is_hub(clusters, a, b, first):
            joined |= clusters.join(a, b, f"{first.bore} is keyed on {first.pin}")
    return joined


def _is_hub(clusters: Clusters, a: str, b: str, fit: Fit) -> bool:
    """Whether what is keyed on a shaft is no slide: it is a wheel, or the shaft turns itself."""
    if balanced(clusters, clusters.of(fit.bore), fit):
        return True
    return any(
        same_axis(fit, other)
        for root, own in ((a, b), (b, a))
        for near, there in clusters.near(root).items()
        if near != own
        for other in there.fits
    )


def are_gears(clusters: Clusters, a: str, b: str, between: Between) -> bool:
    """Whether two clusters touch as gears do: each turns about an axis of its own, balanced."""
    if between.fits:
        return False
    one, other = wheel_axis(clusters, a, but=b), wheel_axis(clusters, b, but=a)
    return one is not None and other is not None and not same_axis(one, other)


def is_flexible(name: str) -> bool:
    """Whether a name ends in a word for a belt, a rope, a hose: a rope drum is none."""
    return _FLEXIBLE.search(name) is not None


def hold_what_lies(clusters: Clusters, *, bodies_only: bool) -> bool:
    """Join pairs of clusters that lie on each other, as most speaks for them; whether any was.

    Of pairs that have to do with each other only one at a time, since what is joined may guide or
    hold others.

    Args:
        clusters: so far.
        bodies_only: leave out what is round, and pairs that one round piece goes through: they may
            be bars on a pin.
    """
    ways = ways_of(clusters)
    best: dict[str, tuple[float, float, str]] = {}
    for a, b, between in clusters.pairs():
        if (
            ways[a, b] is not None
            or _flexible(clusters, a, b)
            or are_gears(clusters, a, b, between)
            or (bodies_only and _about_a_pin(clusters, a, b))
            # What lies in a pocket and can only be lifted out, as a key, is held in any case.
            or (len(between.freedoms.open) > _POCKET and locks(clusters, ways, a, b))
        ):
            continue
        weight = round(_weight(clusters, between), 3)
        for one, other in ((a, b), (b, a)):
            found = (weight, clusters.volume(other), other)
            if one not in best or found > best[one]:
                best[one] = found
    joined = False
    touched: set[str] = set()
    # Small parts first: pads that guide a tube are held before the tube is looked at.
    for one in sorted(best, key=lambda root: (clusters.volume(root), root)):
        other = best[one][2]
        near = {one, other}
        if near & touched or one not in clusters.members or other not in clusters.members:
            continue
        found_between = clusters.between(one, other)
        if found_between is None:
            continue
        touched |= {*near, *clusters.near(one), *clusters.near(other)}
        joined |= clusters.join(other, one, _words(clusters, found_between))
    return joined


def ways_of(clusters: Clusters) -> dict[tuple[str, str], Way | None]:
    """How each pair of clusters that touch can move, as far as it is a joint."""
    return {
        (a, b): None if are_gears(clusters, a, b, between) else way_of(between)
        for a, b, between in clusters.pairs()
    }


def _about_a_pin(clusters: Clusters, a: str, b: str) -> bool:
    if round_axis(clusters, a) is not None or round_axis(clusters, b) is not None:
        return True
    return any(
        round_axis(clusters, third) is not None
        and clusters.near(third)[a].fits
        and clusters.near(third)[b].fits
        for third in clusters.near(a).keys() & clusters.near(b).keys()
    )


def _flexible(clusters: Clusters, a: str, b: str) -> bool:
    return any(
        len(clusters.members[root]) == 1 and is_flexible(clusters.members[root][0])
        for root in (a, b)
    )


def _weight(clusters: Clusters, between: Between) -> float:
    """How much speaks for two clusters being one."""
    seen = clusters.seen
    meeting = max(between.meetings, key=lambda m: m.area)
    smaller = min(
        (seen.parts[name] for name in (meeting.first, meeting.second)), key=lambda p: abs(p.volume)
    )
    surface = float(np.linalg.norm(smaller.size)) ** 2
    weight = min(1.0, meeting.area / surface)
    if any(seen.together(m.first, m.second) for m in between.meetings):
        weight += 0.5
    if len(between.freedoms.open) == 0 and len(between.pushes[0]):
        weight += 0.5
    return weight


def _words(clusters: Clusters, between: Between) -> str:
    meeting = max(between.meetings, key=lambda m: m.area)
    if meeting.crossing:
        return f"{meeting.first} and {meeting.second} run into each other"
    together = clusters.seen.together(meeting.first, meeting.second)
    kept = ", and the CAD keeps them together" if together else ""
    return f"{meeting.first} lies on {meeting.second} and nothing guides it{kept}"


def locks(
    clusters: Clusters,
    ways: dict[tuple[str, str], Way | None],
    a: str,
    b: str,
) -> bool:
    """Whether making one of two clusters would keep joints from moving that can.

    It would where two equal ones, as the jaws of a gripper, are each guided by a third, whole by
    itself, or where a chain of joints between the two could not move any more.
    """
    equal = abs(clusters.volume(a) / max(clusters.volume(b), 1e-300) - 1) < _EQUAL
    for third in clusters.near(a).keys() & clusters.near(b).keys() if equal else ():
        one = ways.get((min(a, third), max(a, third)))
        other = ways.get((min(b, third), max(b, third)))
        if one is not None and other is not None and one.complete and other.complete:
            return True
    path = _path(clusters, ways, a, b)
    if path is None:
        return False
    # Pins turn in both their bores, and sliding along a pin is no motion to keep.
    lines: list[Way] = []
    for way in path:
        if not any(way.turns == known.turns and same_axis(known, way) for known in lines):
            lines.append(way)
    if len(lines) < 2:
        return False
    twists = [way.twists() if way.ball else way.twists()[:1] for way in lines]
    matrix = np.array([t for twist in twists for t in twist]).T
    matrix[3:] /= max(clusters.seen.size, 1e-3)
    matrix /= np.maximum(np.linalg.norm(matrix, axis=0), 1e-12)
    _, values, directions = np.linalg.svd(matrix, full_matrices=True)
    sizes = np.zeros(matrix.shape[1])
    sizes[: len(values)] = values
    free = np.abs(directions[sizes < _STILL]).max(axis=0, initial=0.0)
    column = 0
    for twist in twists:
        if free[column : column + len(twist)].max() < _STILL:
            return True
        column += len(twist)
    return False


def _path(
    clusters: Clusters, ways: dict[tuple[str, str], Way | None], a: str, b: str
) -> list[Way] | None:
    """The shortest chain of joints from one cluster to another."""
    came: dict[str, tuple[str, Way] | None] = {a: None}
    waiting = deque([a])
    while waiting:
        here = waiting.popleft()
        for there in clusters.near(here):
            way = ways.get((min(here, there), max(here, there)))
            if way is None or there in came:
                continue
            came[there] = (here, way)
            if there == b:
                return list(_back(came, b))
            waiting.append(there)
    return None


def _back(came: dict[str, tuple[str, Way] | None], end: str) -> Iterator[Way]:
    step = came[end]
    while step is not None:
        yield step[1]
        step = came[step[0]]
