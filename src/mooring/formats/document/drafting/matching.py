"""Which part of a changed CAD file is which of before, by shape and place and only then by name."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np

from mooring.formats.document.drafting.remembered import PartPrint
from mooring.units import show

_SAME = 2e-3
"""Relative; triangles of another fineness differ by less."""
_MOVED = 1e-4
"""Of its size; a part moved by less has not moved."""


@dataclass
class Matched:
    """The parts of before and after.

    Attributes:
        names: for the name of a part before, that of the same part after.
        told: what is not as it was, a sentence each.
        appeared: names of the parts that were not there before.
        vanished: names of the parts that are there no more.
    """

    names: dict[str, str] = field(default_factory=dict)
    told: list[str] = field(default_factory=list)
    appeared: list[str] = field(default_factory=list)
    vanished: list[str] = field(default_factory=list)


def match(before: Sequence[PartPrint], after: Sequence[PartPrint]) -> Matched:
    """Match parts; the surest first."""
    result = Matched()
    old, new = list(before), list(after)

    def same_name(a: PartPrint, b: PartPrint) -> bool:
        return a.name == b.name

    rounds: tuple[Callable[[PartPrint, PartPrint], bool], ...] = (
        lambda a, b: same_name(a, b) and _same_shape(a, b) and _same_place(a, b),
        lambda a, b: _same_shape(a, b) and _same_place(a, b),
        lambda a, b: same_name(a, b) and _same_shape(a, b),
        same_name,
        _same_shape,
    )
    for fits in rounds:
        for part in list(old):
            found = [other for other in new if fits(part, other)]
            if not found:
                continue
            twin = min(found, key=lambda other: _apart(part, other))
            old.remove(part)
            new.remove(twin)
            result.names[part.name] = twin.name
            changes = _changes(part, twin)
            if changes:
                result.told.append(f"~ part {twin.name}: {'; '.join(changes)}")
    result.vanished = [part.name for part in old]
    result.appeared = [part.name for part in new]
    result.told += [f"- part {name}" for name in result.vanished]
    result.told += [f"+ part {name}" for name in result.appeared]
    return result


def _same_shape(one: PartPrint, other: PartPrint) -> bool:
    scale = max(abs(one.volume), 1e-30)
    if abs(one.volume - other.volume) > _SAME * scale:
        return False
    a, b = one.moments, other.moments
    return bool(np.abs(a - b).max() <= 2 * _SAME * max(float(np.abs(a).max()), 1e-30))


def _same_place(one: PartPrint, other: PartPrint) -> bool:
    if _apart(one, other) > _MOVED * one.size:
        return False
    a, b = np.array(one.inertia), np.array(other.inertia)
    return bool(np.abs(a - b).max() <= 2 * _SAME * max(float(np.abs(a).max()), 1e-30))


def _apart(one: PartPrint, other: PartPrint) -> float:
    return float(np.linalg.norm(np.subtract(one.centre, other.centre)))


def _changes(before: PartPrint, after: PartPrint) -> list[str]:
    found = []
    if before.name != after.name:
        found.append(f"was {before.name}")
    if not _same_shape(before, after):
        ratio = after.volume / before.volume - 1 if before.volume else np.inf
        found.append(f"another shape, with {100 * ratio:+.3g}% of volume")
    elif not _same_place(before, after):
        way = _apart(before, after)
        moved = f"moved by {show(way, 'length', 3)}" if way > _MOVED * before.size else "turned"
        found.append(moved)
    return found
