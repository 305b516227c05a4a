"""Fewer triangles for the same shape, and how far off they are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from mooring.cad.hierarchy import Boxes
from mooring.cad.mesh import Mesh, weld
from mooring.cad.paint import Paint
from mooring.cad.part import Geometry
from mooring.cad.spreading import normals_and_areas
from mooring.errors import ModelError, needing
from mooring.units import show

_FEWEST = 12
"""A box's worth; what has no more is left as it is."""
_STEP = 0.7
_EAGERNESS = (3.0, 7.0)
_USELESS = 0.03
"""Share of a part's size; what is off by more is no picture of it."""
_MOST_POINTS = 20_000


@dataclass(frozen=True)
class Simplified:
    """What became of the triangles of one kind of part.

    Attributes:
        name: of the product.
        before, after: triangles.
        deviation: the largest distance between the old and the new surface [m].
    """

    name: str
    before: int
    after: int
    deviation: float

    def __str__(self) -> str:
        if self.after == self.before:
            return f"{self.name}: left at {self.before:,} triangles"
        off = show(self.deviation, "length", 3)
        return f"{self.name}: {self.before:,} -> {self.after:,} triangles, off by at most {off}"


class Ladder:
    """One geometry in fewer and fewer triangles, each step with how far it is off.

    Attributes:
        geometry: in all its triangles.
        steps: number of triangles, largest deviation [m], mesh; the first is the geometry's own.
    """

    def __init__(self, geometry: Geometry) -> None:
        self.geometry = geometry
        mesh = geometry.mesh
        self.steps: list[tuple[int, float, Mesh]] = [(len(mesh.faces), 0.0, mesh)]
        target, size = _STEP * len(mesh.faces), float(np.ptp(mesh.bounds, axis=0).max())
        while target >= _FEWEST:
            for eagerness in _EAGERNESS:
                simpler = _decimated(mesh, int(target), eagerness)
                if len(simpler.faces) < self.steps[-1][0] and _whole(simpler, mesh):
                    off = deviation(mesh, simpler)
                    if off < _USELESS * size:
                        self.steps.append((len(simpler.faces), off, simpler))
                        break
            target *= _STEP

    def within(self, tolerance: float) -> tuple[int, float, Mesh]:
        """The step with the fewest triangles that is off by no more than a tolerance [m]."""
        return min((s for s in self.steps if s[1] <= tolerance), key=lambda step: step[0])

    def simplified(self, tolerance: float) -> tuple[Geometry, Simplified]:
        """The geometry at that step: its mass and its exact faces stay what they were."""
        old = self.geometry.mesh
        count, off, mesh = self.within(tolerance)
        done = Simplified(self.geometry.name, len(old.faces), count, off)
        if mesh is old:
            return self.geometry, done
        if old.paint is not None:
            _, triangles = Boxes(old.corners).nearest(mesh.corners.mean(axis=1))
            paint = Paint(old.paint.colors, old.paint.of_triangle[triangles])
            mesh = replace(mesh, paint=paint)
        return replace(self.geometry, mesh=mesh), done


def tolerance_for(ladders: Sequence[Ladder], copies: Sequence[int], triangles: int) -> float:
    """The smallest tolerance [m] at which all copies together have no more than some triangles.

    Infinite where no step of the ladders is low enough.
    """
    for tolerance in sorted({step[1] for ladder in ladders for step in ladder.steps}):
        counts = [ladder.within(tolerance)[0] for ladder in ladders]
        if sum(n * k for n, k in zip(counts, copies, strict=True)) <= triangles:
            return tolerance
    return float("inf")


def deviation(one: Mesh, other: Mesh) -> float:
    """The largest distance between two surfaces, at corners and middles of both [m].

    Of very large meshes some 20,000 places are looked at.
    """
    apart = []
    for a, b in ((one, other), (other, one)):
        points = np.concatenate([a.vertices, a.corners.mean(axis=1)])
        points = points[:: max(1, len(points) // _MOST_POINTS)]
        apart.append(float(Boxes(b.corners).distances(points).max()))
    return max(apart)


def _decimated(mesh: Mesh, target: int, eagerness: float) -> Mesh:
    """By quadric error metrics (Garland, Heckbert, 1997), in the library's implementation."""
    try:
        import fast_simplification
    except ImportError as error:
        raise ModelError(needing("simplifying", "meshes", error)) from error
    # Its thresholds are absolute; give it numbers around one.
    low = mesh.bounds[0]
    size = float(np.ptp(mesh.bounds, axis=0).max())
    points, faces = fast_simplification.simplify(
        (mesh.vertices - low) / size,
        mesh.faces.astype(np.int32),
        target_count=target,
        agg=eagerness,
    )
    vertices = np.asarray(points, dtype=float) * size + low
    return weld(vertices, np.asarray(faces, dtype=np.int64), max(1e-9 * size, 1e-12))


def _whole(simpler: Mesh, mesh: Mesh) -> bool:
    """Whether a simpler mesh is as closed as the mesh was, and nothing in it is folded over."""
    if len(simpler.faces) < 4 or simpler.open_edges > mesh.open_edges:
        return False
    if simpler.disagreeing_edges > mesh.disagreeing_edges or simpler.bodies != mesh.bodies:
        return False
    _, areas = normals_and_areas(simpler)
    return bool((areas > 0).all())
