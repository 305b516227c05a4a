"""Rolling bearings that are modelled piece by piece."""

from __future__ import annotations

import numpy as np

from mooring.cad.proposing.clusters import Clusters
from mooring.cad.proposing.survey import Survey, folder
from mooring.cad.touching.lines import same_axis
from mooring.cad.touching.meetings import Fit, Meeting
from mooring.geometry import Array

Bearing = tuple[str, str, tuple[str, ...]]
"""Names of the inner ring, the outer ring, and what rolls between them, with its cage."""

_IN_A_BEARING = 4
"""Parts of a bearing that is drawn without balls: rings, shields."""
_FEWEST = 3
"""Balls or rollers of a bearing."""


def find_bearings(seen: Survey) -> list[Bearing]:
    """The bearings of an assembly."""
    rings = [name for name in seen.parts if _is_ring(seen, name)]
    found: list[Bearing] = []
    taken: set[str] = set()
    for inner in rings:
        for outer in rings:
            if inner == outer or inner in taken or outer in taken:
                continue
            if not _nested(seen, inner, outer):
                continue
            rolling = _between(seen, inner, outer)
            few = len(rolling) < _FEWEST
            if few and not (_by_themselves(seen, inner, outer) or _called(seen, inner, outer)):
                continue
            if few and outer in seen.neighbours[inner]:
                continue
            taken |= {inner, outer}
            found.append((inner, outer, tuple(rolling)))
    return found


def join_bearings(clusters: Clusters, found: list[Bearing]) -> None:
    """Put what rolls with the inner ring."""
    for inner, _, rolling in found:
        for name in rolling:
            clusters.join(inner, name, f"{name} rolls about {inner}")


def let_roll(seen: Survey, found: list[Bearing]) -> None:
    """Put one running fit in the place of all that touches between the rings of a bearing."""
    for inner, outer, rolling in found:
        inside = {inner, *rolling}
        gone = [pair for pair in seen.meetings if outer in pair and inside & set(pair)]
        seen.exchange(gone, _running(seen, inner, outer))
        seen.rolling |= set(rolling)


def _running(seen: Survey, inner: str, outer: str) -> Meeting:
    axis = seen.rounds[inner]
    assert axis is not None
    part = seen.parts[inner]
    heights = part.vertices @ axis.direction
    middle = axis.origin + axis.direction * (
        (heights.min() + heights.max()) / 2 - axis.origin @ axis.direction
    )
    length = float(np.ptp(heights))
    radius = _radius(seen, inner, largest=True)
    fit = Fit(
        inner, outer, middle, axis.direction, radius, 0.0, length, (0.0, 0.0), False, 1e-6, True
    )  # fmt: skip
    # Balls in grooves hold along the axis, too.
    points = np.array([middle, middle])
    sides = np.array([axis.direction, -axis.direction])
    return Meeting(inner, outer, (fit,), points, sides, 0.0, False, False)


def _is_ring(seen: Survey, name: str) -> bool:
    if name in seen.screws or not seen.is_round(name):
        return False
    faces = seen.parts[name].cylinders
    kinds = {face.kind for face in faces if face.coverage > 0.7}
    return kinds == {"pin", "bore"}


def _radius(seen: Survey, name: str, *, largest: bool) -> float:
    faces = seen.parts[name].cylinders
    if largest:
        return max(face.radius for face in faces if face.kind == "pin")
    return min(face.radius for face in faces if face.kind == "bore")


def _span(seen: Survey, name: str, direction: Array) -> tuple[float, float]:
    heights = seen.parts[name].vertices @ direction
    return float(heights.min()), float(heights.max())


def _nested(seen: Survey, inner: str, outer: str) -> bool:
    """Whether one ring is inside the other, with a gap, and about as wide."""
    one, two = seen.rounds[inner], seen.rounds[outer]
    assert one is not None
    assert two is not None
    if not same_axis(one, two):
        return False
    small = _radius(seen, inner, largest=True)
    large = _radius(seen, outer, largest=False)
    bore = _radius(seen, inner, largest=False)
    rim = _radius(seen, outer, largest=True)
    if not small < large or large - small > 0.6 * (rim - bore):
        return False
    a, b = _span(seen, inner, one.direction), _span(seen, outer, one.direction)
    shared = min(a[1], b[1]) - max(a[0], b[0])
    return shared > 0.7 * min(a[1] - a[0], b[1] - b[0])


def _between(seen: Survey, inner: str, outer: str) -> list[str]:
    """Equal parts in a circle between two rings, and the cage that holds them."""
    axis = seen.rounds[inner]
    assert axis is not None
    low, high = _span(seen, inner, axis.direction)
    near, far = _radius(seen, inner, largest=False), _radius(seen, outer, largest=True)
    inside: list[str] = []
    cages: list[str] = []
    for name in {*seen.neighbours[inner], *seen.neighbours[outer]} - {inner, outer}:
        part = seen.parts[name]
        arms = part.vertices - axis.origin
        heights = part.vertices @ axis.direction
        radii = np.linalg.norm(arms - np.outer(arms @ axis.direction, axis.direction), axis=1)
        wide = (high - low) * 0.2
        if heights.min() < low - wide or heights.max() > high + wide:
            continue
        if radii.min() < near or radii.max() > far or name in seen.screws:
            continue
        middle = part.vertices.mean(axis=0) - axis.origin
        aside = np.linalg.norm(middle - axis.direction * (middle @ axis.direction))
        (inside if aside > near else cages).append(name)
    if len(inside) < _FEWEST:
        return []
    for name in {b for a in inside for b in seen.neighbours[a]} - {inner, outer, *inside}:
        arms = seen.parts[name].vertices - axis.origin
        radii = np.linalg.norm(arms - np.outer(arms @ axis.direction, axis.direction), axis=1)
        if radii.min() > near and radii.max() < far:
            cages.append(name)
    return [*inside, *dict.fromkeys(cages)]


def _by_themselves(seen: Survey, inner: str, outer: str) -> bool:
    """Whether two rings have a sub-assembly with hardly anything else in it."""
    home = folder(seen.parts[inner])
    inside = [part for part in seen.parts.values() if folder(part) == home]
    return seen.together(inner, outer) and len(inside) <= _IN_A_BEARING


def _called(seen: Survey, *names: str) -> bool:
    words = ("bearing", "lager", "roulement", "rodamiento", "cuscinetto", "轴承", "軸承", "軸受")
    paths = [seen.parts[name].path.lower().partition("/")[2] for name in names]
    return all(any(word in path for word in words) for path in paths)
