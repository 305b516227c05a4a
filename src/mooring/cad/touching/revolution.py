"""Whether a part is a body of revolution, so that nobody sees it turn."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from mooring.cad.mesh import Mesh
from mooring.cad.part import Geometry, Part
from mooring.cad.surfaces import ConicalFace, CylindricalFace, PlanarFace, SphericalFace
from mooring.geometry import Array

_LEANING = 0.13
"""Facets of a round face have a normal off its radius by no more than this (a sine)."""
_CENTRED = 1e-4


@dataclass(frozen=True, eq=False)
class Round:
    """The axis about which a part is round.

    Attributes:
        origin: a point on it, (3,) [m].
        direction: unit vector, (3,).
        uneven: the share of its surface that is not round about it: of a hexagon, a keyway.
    """

    origin: Array
    direction: Array
    uneven: float

    def placed(self, place: Array) -> Round:
        """The same moved by a rigid placement (4, 4)."""
        turn = place[:3, :3]
        return Round(turn @ self.origin + place[:3, 3], turn @ self.direction, self.uneven)


def roundness(geometry: Geometry) -> Round | None:
    """The axis about which most of a shape is round, or None where it has no round face."""
    candidates: list[tuple[Array, Array]] = []
    weights: list[float] = []
    for face in geometry.surfaces:
        if not isinstance(face, CylindricalFace | ConicalFace):
            continue
        size = face.reach**2 * face.coverage
        for number, (origin, direction) in enumerate(candidates):
            off = face.centre - origin
            aside = np.linalg.norm(off - direction * (off @ direction))
            if aside < _CENTRED and abs(face.direction @ direction) > 0.9999:
                weights[number] += size
                break
        else:
            candidates.append((face.centre, face.direction))
            weights.append(size)
    best: Round | None = None
    for number in np.argsort(weights)[::-1][:3]:
        origin, direction = candidates[number]
        uneven = _uneven(geometry.mesh, geometry.bodies, origin, direction)
        if best is None or uneven < best.uneven:
            best = Round(origin, direction, uneven)
    return best


def is_ball(part: Part) -> bool:
    """Whether a part is nothing but a ball."""
    balls = [face for face in part.geometry.surfaces if isinstance(face, SphericalFace)]
    if len(balls) != 1 or any(isinstance(f, PlanarFace) for f in part.geometry.surfaces):
        return False
    volume = 4 / 3 * np.pi * balls[0].radius ** 3
    return bool(abs(part.volume / volume - 1) < 0.05)


def _uneven(mesh: Mesh, bodies: int, origin: Array, direction: Array) -> float:
    """The share of a mesh's area whose normals would move, were it turned about an axis."""
    corners = mesh.corners
    if bodies > 1:
        corners = corners[_about_the_axis(mesh, origin, direction)]
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    areas = np.linalg.norm(cross, axis=1)
    arms = corners.mean(axis=1) - origin
    ways = np.cross(direction, arms)
    sizes = np.linalg.norm(ways, axis=1)
    sine = np.abs(np.einsum("ij,ij->i", cross, ways)) / np.maximum(areas * sizes, 1e-300)
    total = float(areas.sum())
    return float(areas[sine > _LEANING].sum() / total) if total > 0 else 1.0


def _about_the_axis(mesh: Mesh, origin: Array, direction: Array) -> Array:
    """Which triangles belong to bodies that lie about an axis, as the rings of a bearing do."""
    labels = mesh.body_of_vertex
    of_triangle = labels[mesh.faces[:, 0]]
    chosen = np.zeros(len(of_triangle), dtype=bool)
    for label in np.unique(of_triangle):
        arm = mesh.vertices[labels == label].mean(axis=0) - origin
        size = float(np.ptp(mesh.vertices[labels == label], axis=0).max())
        if np.linalg.norm(arm - direction * (arm @ direction)) < 0.02 * size:
            chosen |= of_triangle == label
    return chosen if chosen.any() else np.ones(len(of_triangle), dtype=bool)
