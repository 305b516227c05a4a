"""Pairs of parts that touch, and the groups they form."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from mooring import announcing
from mooring.cad.part import Part
from mooring.cad.touching.inside import inside
from mooring.geometry import Array


@dataclass(frozen=True)
class Contact:
    """Two parts that touch.

    Attributes:
        first, second: names of the parts.
        gap: the smallest distance between their surfaces [m]; 0 where they cross, or where one is
            inside the other.
    """

    first: str
    second: str
    gap: float


def contacts_of(parts: Sequence[Part], tolerance: float) -> list[Contact]:
    """The pairs of parts no farther apart than a tolerance [m], in the parts' order.

    Round faces count as touching although their triangles do not quite meet, as long as the
    tolerance is not finer than the triangles.
    """
    bounds = np.array([[p.vertices.min(axis=0), p.vertices.max(axis=0)] for p in parts])
    found = []
    near = sorted(_near(bounds, tolerance))
    for number, (a, b) in enumerate(near):
        if number % 64 == 0:
            announcing.progress(number, len(near))
        gap = _gap(parts[a], parts[b], bounds[a], bounds[b], tolerance)
        if gap <= tolerance:
            found.append(Contact(parts[a].name, parts[b].name, gap))
    return found


def groups_of(parts: Sequence[Part], contacts: Sequence[Contact]) -> list[list[str]]:
    """The names of the parts that hang together by contacts, largest groups first."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    number = {part.name: k for k, part in enumerate(parts)}
    rows = [number[contact.first] for contact in contacts]
    columns = [number[contact.second] for contact in contacts]
    ones = np.ones(len(rows), dtype=np.int8)
    graph = coo_array((ones, (rows, columns)), shape=(len(parts), len(parts)))
    count, labels = connected_components(graph, directed=False)
    groups = [
        [p.name for p, at in zip(parts, labels, strict=True) if at == k] for k in range(count)
    ]
    return sorted(groups, key=len, reverse=True)


def _near(bounds: Array, tolerance: float) -> Iterator[tuple[int, int]]:
    """Pairs whose bounding boxes overlap: sorted along the longest way, each looked at once."""
    axis = int(np.argmax(np.ptp(bounds.reshape(-1, 3), axis=0)))
    order = np.argsort(bounds[:, 0, axis])
    starts = bounds[order, 0, axis]
    for place, one in enumerate(order):
        end = np.searchsorted(starts, bounds[one, 1, axis] + tolerance, side="right")
        others = order[place + 1 : end]
        apart = (bounds[others, 0] > bounds[one, 1] + tolerance).any(axis=1)
        apart |= (bounds[others, 1] < bounds[one, 0] - tolerance).any(axis=1)
        for other in others[~apart]:
            yield min(int(one), int(other)), max(int(one), int(other))


def _gap(one: Part, other: Part, bounds: Array, others: Array, tolerance: float) -> float:
    low = np.maximum(bounds[0], others[0]) - tolerance
    high = np.minimum(bounds[1], others[1]) + tolerance
    first = triangles_within(one, low, high)
    gap = other.boxes.closest(first) if len(first) else np.inf
    if gap > tolerance and (_holds(one, other) or _holds(other, one)):
        return 0.0
    return gap


def triangles_within(part: Part, low: Array, high: Array) -> Array:
    """The triangles of a part that reach into a box, (k, 3, 3) [m]."""
    triangles = part.corners
    inside = (triangles.min(axis=1) <= high).all(axis=1) & (triangles.max(axis=1) >= low).all(
        axis=1
    )
    return np.ascontiguousarray(triangles[inside])


def _holds(outer: Part, inner: Part) -> bool:
    """Whether a part that no surface crosses is inside another, by counting walls."""
    if not outer.geometry.closed:
        return False
    return bool(inside(outer.corners, inner.vertices[:1])[0])
