"""A tree of boxes over triangles, and what can be asked of it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from mooring._native import cad as native
from mooring.geometry import Array


class Boxes:
    """Triangles sorted into boxes, so that a question looks at few of them.

    Args:
        triangles: (m, 3, 3) [m], at least one.
    """

    def __init__(self, triangles: Array) -> None:
        self._tree = native.Boxes(np.ascontiguousarray(triangles, dtype=float))

    def nearest(self, points: Array) -> tuple[Array, NDArray[np.int64]]:
        """From points (n, 3) to the nearest triangle: distances (n,) [m], and which it is (n,)."""
        out, which = np.empty(len(points)), np.empty(len(points), dtype=np.int64)
        self._tree.nearest(np.ascontiguousarray(points, dtype=float), out, which)
        return out, which

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
        self._tree.first_hits(
            np.ascontiguousarray(origins, dtype=float),
            np.ascontiguousarray(directions, dtype=float),
            float(far),
            out,
        )
        return out

    def closest(self, triangles: Array, enough: float = 0.0) -> float:
        """The smallest distance of other triangles (k, 3, 3) to these [m]; 0 if they cross.

        Args:
            triangles: the others.
            enough: any distance of so much or less will do [m].
        """
        return self._tree.closest(np.ascontiguousarray(triangles, dtype=float), enough)

    def facing(self, triangles: Array, tolerance: float, cosine: float) -> NDArray[np.bool_]:
        """Which of other triangles (k, 3, 3) lie flat against one of these, (k,).

        The normals are opposite within an angle, the planes no farther apart than the tolerance,
        and seen along the normal the triangles overlap.

        Args:
            triangles: the others.
            tolerance: [m].
            cosine: of the angle.
        """
        marked = np.zeros(len(triangles), dtype=np.bool_)
        others = np.ascontiguousarray(triangles, dtype=float)
        self._tree.facing(others, tolerance, cosine, marked)
        return marked
