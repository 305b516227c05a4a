"""The directions along which a shape is worth fitting."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from mooring.geometry import Array

_MOST_FACES = 60


def candidate_directions(corners: Array, round_axes: Iterable[Array] = ()) -> Array:
    """Unit directions (k, 3) in which a tight shape may lie.

    The coordinate axes; the axes of the part's own round faces; the normals of the hull's largest
    faces (a smallest box has a face flush with the hull, O'Rourke 1985); the principal axes of the
    hull's surface.

    Args:
        corners: of the convex hull's triangles, (m, 3, 3).
        round_axes: axes of bores and pins.
    """
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    areas = np.linalg.norm(normals, axis=1)
    solid = areas > 1e-12 * areas.max()
    normals, areas, corners = normals[solid], areas[solid], corners[solid]
    normals /= areas[:, None]
    found = [*np.eye(3), *(np.asarray(axis) for axis in round_axes), *_principal(corners, areas)]
    by_area: list[tuple[float, Array]] = []
    for direction, area in _merged(normals, areas):
        by_area.append((area, direction))
    by_area.sort(key=lambda pair: -pair[0])
    found += [direction for _, direction in by_area[:_MOST_FACES]]
    return _without_repeats(np.array(found))


def _principal(corners: Array, areas: Array) -> Array:
    middles = corners.mean(axis=1)
    centre = np.average(middles, axis=0, weights=areas)
    spread = np.einsum("i,ij,ik->jk", areas, middles - centre, middles - centre)
    return np.asarray(np.linalg.eigh(spread)[1].T)


def _merged(normals: Array, areas: Array) -> list[tuple[Array, float]]:
    """Face directions with the areas of parallel faces added up."""
    largest = np.argmax(np.abs(normals) > 0.5, axis=1)
    signs = np.sign(normals[np.arange(len(normals)), largest])
    cells = np.round(normals * signs[:, None] / 0.02).astype(np.int64)
    _, first, back = np.unique(cells, axis=0, return_index=True, return_inverse=True)
    sums = np.bincount(back.ravel(), weights=areas)
    return [(normals[k], float(area)) for k, area in zip(first, sums, strict=True)]


def _without_repeats(directions: Array) -> Array:
    kept: list[Array] = []
    for direction in directions:
        if all(abs(float(direction @ other)) < np.cos(np.radians(0.2)) for other in kept):
            kept.append(direction)
    return np.array(kept)
