"""Which points are inside a closed surface."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from mooring._native.cad import crossings
from mooring.geometry import Array


def inside(triangles: Array, points: Array) -> NDArray[np.bool_]:
    """Whether points (n, 3) are inside closed triangles (m, 3, 3), by counting walls, (n,)."""
    result = np.zeros(len(points), dtype=bool)
    low, high = triangles.min(axis=(0, 1)), triangles.max(axis=(0, 1))
    near = ((points >= low) & (points <= high)).all(axis=1)
    counts = np.zeros(int(near.sum()), dtype=np.int64)
    crossings(
        np.ascontiguousarray(triangles, dtype=float),
        np.ascontiguousarray(points[near], dtype=float),
        counts,
    )
    result[near] = counts % 2 == 1
    return result
