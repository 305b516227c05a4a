"""How well collision shapes fit: how much larger they are, and how far they stand out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.spatial import ConvexHull, QhullError

from mooring.cad import Part
from mooring.cad.hierarchy import Boxes
from mooring.cad.mesh import Mesh
from mooring.cad.spreading import spread_over
from mooring.cad.touching.inside import inside
from mooring.geometry import Array, apply
from mooring.model.shapes import PlacedShape

_PLACES = 600
_AT_ONCE = 64


@dataclass(frozen=True)
class Judgement:
    """How shapes compare with the parts they cover.

    Attributes:
        excess: by how much their volume is larger than that of the parts' convex hull, as a share
            of it; negative for several pieces that follow the parts.
        overhang: the largest distance from their surface to the parts [m].
    """

    excess: float
    overhang: float


def judge(shapes: Sequence[PlacedShape], parts: Sequence[Part]) -> Judgement:
    """Compare shapes with the parts they cover, both in CAD coordinates."""
    solids = [p.shape for p in shapes if p.shape.convex]
    if len(solids) < len(shapes):
        return Judgement(0.0, 0.0)
    around = hull_volume(np.concatenate([part.vertices for part in parts]))
    volume = sum(shape.volume for shape in solids)
    outside = Outside(
        [part.corners for part in parts if part.geometry.closed], [part.corners for part in parts]
    )
    farthest = max(
        outside.farthest(apply(p.placement.matrix, on_surface(p.shape.mesh))) for p in shapes
    )
    return Judgement(volume / max(around, 1e-30) - 1, farthest)


class Outside:
    """How far points stand out from parts.

    Args:
        closed: the triangles of each closed part, (m, 3, 3) each.
        surfaces: the triangles of all parts.
    """

    def __init__(self, closed: Sequence[Array], surfaces: Sequence[Array]) -> None:
        self._closed = closed
        self._surface = Boxes(np.concatenate(surfaces))

    def farthest(self, points: Array) -> float:
        """The largest distance of points (n, 3) from the parts; none for those inside [m]."""
        distances = self._surface.distances(points)
        # Most points are close or outside: few need to be asked whether they are inside.
        farthest_first = np.argsort(-distances)
        for some in np.array_split(farthest_first, max(1, len(points) // _AT_ONCE)):
            covered = np.zeros(len(some), dtype=bool)
            for triangles in self._closed:
                covered |= inside(triangles, points[some])
            if not covered.all():
                return float(distances[some[int(np.argmin(covered))]])
        return 0.0


def hull_volume(points: Array) -> float:
    """Of the convex hull of points (n, 3) [m^3]; 0 for flat ones."""
    try:
        return float(ConvexHull(points).volume)
    except (QhullError, ValueError):
        return 0.0


def on_surface(mesh: Mesh) -> Array:
    """Points all over a surface, corners among them, (n, 3) [m]."""
    return np.concatenate([mesh.vertices, spread_over(mesh, _PLACES)[0]])
