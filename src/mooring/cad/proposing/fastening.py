"""What screws hold together, and which of them may be pivots."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from mooring.cad.part import Part
from mooring.cad.proposing.clusters import Clusters
from mooring.cad.proposing.survey import Survey
from mooring.cad.surfaces import CylindricalFace
from mooring.cad.tidying.hardware import shank_of
from mooring.cad.touching.lines import Line, distance_from, parallel, same_axis
from mooring.geometry import Array

_CLEARANCE_HOLE = 0.16
"""Share of its radius by which a hole may be wider than the screw in it (ISO 273, coarse)."""
_STICKING_OUT = 0.25
"""Share of a shank's length that leads into something which is not there."""
_EYE = 0.4
"""Share of a turn from which on a rounded end about a hole makes it an eye."""


@dataclass(frozen=True, eq=False)
class Fastening:
    """Screws, nuts and washers on one axis.

    Attributes:
        hardware: names of these parts.
        parts: names of the parts they go through or lie on.
        origin, direction: of the axis, (3,) [m].
        radius: of the shank [m].
    """

    hardware: tuple[str, ...]
    parts: tuple[str, ...]
    origin: Array
    direction: Array
    radius: float


def fastenings_of(seen: Survey) -> list[Fastening]:
    """The screws with their nuts and washers, and what they go through."""
    shanks = {name: shank_of(seen.parts[name]) for name in sorted(seen.screws)}
    known = {name: face for name, face in shanks.items() if face is not None}
    together: list[list[str]] = []
    for name in known:
        touching = [b for b in seen.neighbours[name] if b in known and _aligned(known, name, b)]
        homes = [group for group in together if any(other in group for other in touching)]
        merged = [name, *(other for group in homes for other in group)]
        together = [group for group in together if group not in homes] + [merged]
    return [_fastening(seen, known, sorted(names)) for names in together]


def _aligned(known: dict[str, CylindricalFace], one: str, other: str) -> bool:
    a, b = known[one], known[other]
    line = Line(a.centre, a.direction)
    aside = distance_from(line, b.centre)
    return parallel(line, Line(b.centre, b.direction)) and aside < 0.25 * a.radius + 2e-4


def _fastening(seen: Survey, known: dict[str, CylindricalFace], names: list[str]) -> Fastening:
    pins = [known[n] for n in names if known[n].kind == "pin"]
    axis = max(pins or [known[n] for n in names], key=lambda face: face.length)
    parts = {b for n in names for b in seen.neighbours[n] if b not in seen.screws}
    for n in names:
        if known[n].kind == "pin":
            parts |= {b for b in _passed(seen, known[n]) if b not in seen.screws}
    return Fastening(tuple(names), tuple(sorted(parts)), axis.centre, axis.direction, axis.radius)


def _passed(seen: Survey, shank: CylindricalFace) -> Iterator[str]:
    """The parts with a hole about a shank."""
    axis = Line(shank.centre, shank.direction)
    reach = shank.length / 2 + shank.radius
    low, high = seen.bounds[:, 0] - reach, seen.bounds[:, 1] + reach
    near = ((shank.centre >= low) & (shank.centre <= high)).all(axis=1)
    names = list(seen.parts)
    for name in (names[number] for number in np.flatnonzero(near)):
        for bore in seen.parts[name].cylinders:
            wider = bore.radius / shank.radius - 1
            if bore.kind == "bore" and -0.2 < wider < _CLEARANCE_HOLE:
                along = float((bore.centre - shank.centre) @ shank.direction)
                overlap = (bore.length + shank.length) / 2 - abs(along)
                aside = distance_from(axis, bore.centre)
                runs_along = parallel(axis, Line(bore.centre, bore.direction))
                if runs_along and aside < 0.1 * shank.radius + 1e-4 and overlap > 1e-4:
                    yield name
                    break


def fasten(clusters: Clusters, fastenings: list[Fastening]) -> list[Fastening]:
    """Join what two or more screws hold; what one alone holds comes back."""
    held: dict[tuple[str, str], list[Fastening]] = {}
    for fastening in fastenings:
        for number, a in enumerate(fastening.parts):
            for b in fastening.parts[number + 1 :]:
                held.setdefault((a, b), []).append(fastening)
    single: list[Fastening] = []
    for (a, b), by in sorted(held.items()):
        if _axes(by) >= 2:
            clusters.join(a, b, f"{_axes(by)} screws hold {a} to {b}")
    for fastening in fastenings:
        homes = {clusters.of(name) for name in fastening.parts}
        if len(homes) > 1:
            # Two plates may each be held to a third by screws of their own, and so be one.
            single.append(fastening)
        else:
            _attach(clusters, fastening)
    return single


def _axes(fastenings: list[Fastening]) -> int:
    apart: list[Fastening] = []
    for one in fastenings:
        if not any(same_axis(k, one) for k in apart):
            apart.append(one)
    return len(apart)


def _attach(clusters: Clusters, fastening: Fastening) -> None:
    """Screws go with one of the parts they hold."""
    for name in fastening.hardware:
        if fastening.parts:
            clusters.join(fastening.parts[0], name, "")
        else:
            clusters.join(fastening.hardware[0], name, "")


def settle_singles(clusters: Clusters, singles: list[Fastening]) -> list[str]:
    """Tell pivots from clamps where one screw alone goes through parts.

    A part with a rounded end about the hole, or one that is held by single screws in two places, is
    a lever or a bar of a linkage. Anything else is thought to be clamped.

    Returns:
        What was thought of each, in words.
    """
    count: dict[str, int] = {}
    for single in singles:
        for root in {clusters.of(name) for name in single.parts}:
            count[root] = count.get(root, 0) + 1
    found = []
    for single in singles:
        homes = sorted({clusters.of(name) for name in single.parts})
        names = " and ".join(sorted(single.parts)[:3])
        screw = single.hardware[0]
        eyes = [n for n in single.parts if _has_eye(clusters.seen.parts[n], single)]
        linkage = sum(count[root] >= 2 for root in homes) >= 2
        if len(homes) > 1 and (eyes or linkage):
            why = f"{eyes[0]} has a rounded end about it" if eyes else "they form a linkage"
            found.append(f"{screw} alone joins {names} and is taken for a pivot: {why}")
            for name in single.hardware[1:]:
                clusters.join(single.hardware[0], name, "")
            largest = max(single.parts, key=lambda n: clusters.volume(clusters.of(n)))
            clusters.join(largest, screw, f"the screw {screw} is taken to be fixed in {largest}")
            continue
        if len(homes) > 1:
            found.append(f"{screw} alone holds {names}; it might be a pivot")
            for name in single.parts[1:]:
                clusters.join(single.parts[0], name, f"the screw {screw} clamps {names}")
        _attach(clusters, single)
    return found


def _has_eye(part: Part, fastening: Fastening) -> bool:
    for face in part.cylinders:
        if face.kind != "pin" or face.coverage < _EYE or face.radius < 1.2 * fastening.radius:
            continue
        if face.radius > 4 * fastening.radius + 2e-3:
            continue
        if same_axis(fastening, Line(face.centre, face.direction)):
            return True
    return False


def mounts_of(clusters: Clusters, fastenings: list[Fastening]) -> dict[str, int]:
    """How many screws go through one cluster into nothing that is there, by its root."""
    found: dict[str, int] = {}
    for fastening in fastenings:
        if len(fastening.parts) != 1:
            continue
        part = clusters.seen.parts[fastening.parts[0]]
        if any(_sticks_out(clusters.seen.parts[n], part) for n in fastening.hardware):
            root = clusters.of(part.name)
            found[root] = found.get(root, 0) + 1
    return found


def _sticks_out(bolt: Part, part: Part) -> bool:
    """Whether a bolt's shank goes on where the only part it goes through has ended."""
    shank = shank_of(bolt)
    if shank is None or shank.kind != "pin":
        return False
    low, high = part.vertices.min(axis=0), part.vertices.max(axis=0)
    ends = [shank.centre + sign * shank.direction * shank.length / 2 for sign in (-1, 1)]
    beyond = max(float(np.maximum(low - end, end - high).max()) for end in ends)
    return beyond > _STICKING_OUT * shank.length
