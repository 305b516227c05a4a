"""A tree of boxes over triangles, and what can be asked of it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from mooring.cad.hierarchy.kernels.build import build
from mooring.cad.hierarchy.kernels.nearest import nearest
from mooring.cad.hierarchy.kernels.rays import first_hits
from mooring.compiling import compiles
from mooring.geometry import Array


class Boxes:
    """Triangles sorted into boxes, so that a question looks at few of them.

    Args:
        triangles: (m, 3, 3) [m], at least one.

    Attributes:
        arrays: for kernels: the triangles leaf by leaf, and the boxes as `build` made them.
    """

    @compiles("the search among triangles")
    def __init__(self, triangles: Array) -> None:
        triangles = np.ascontiguousarray(triangles, dtype=float)
        most = 2 * len(triangles)
        low, high = np.empty((most, 3)), np.empty((most, 3))
        below, first, count = (np.zeros(most, dtype=np.int64) for _ in range(3))
        order = np.empty(len(triangles), dtype=np.int64)
        used = build(triangles, low, high, below, first, count, order)
        self._order = order
        self.arrays = (
            np.ascontiguousarray(triangles[order]),
            *(np.ascontiguousarray(array[:used]) for array in (low, high, below, first, count)),
        )

    def nearest(self, points: Array) -> tuple[Array, NDArray[np.int64]]:
        """From points (n, 3) to the nearest triangle: distances (n,) [m], and which it is (n,)."""
        out, which = np.empty(len(points)), np.empty(len(points), dtype=np.int64)
        nearest(np.ascontiguousarray(points, dtype=float), *self.arrays, out, which)
        return out, self._order[which]

    def distances(self, points: Array) -> Array:
        """From points (n, 3) to the nearest triangle, (n,) [m]."""
        return self.nearest(points)[0]

    def hits(self, origins: Array, directions: Array, far: float = np.inf) -> Array:
        """How far rays go before they meet a triangle.

        Args:
            origins, directions: (n, 3).
            far: where rays end, in lengths of their directions.

        Returns:
            (n,) in lengths of the directions; infinite where nothing is met.
        """
        out = np.empty(len(origins))
        first_hits(
            np.ascontiguousarray(origins, dtype=float),
            np.ascontiguousarray(directions, dtype=float),
            float(far),
            *self.arrays,
            out,
        )
        return out
