"""Parts that nobody can see from outside."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from mooring.cad.features.regions import normals_and_areas
from mooring.cad.hierarchy import Boxes
from mooring.cad.part import Part
from mooring.geometry import Array

_POINTS = 400
_RAYS = 96


def hidden_parts(parts: Sequence[Part]) -> list[Part]:
    """The parts from whose surface no straight line leads out of the assembly.

    Rays start at 400 places on each part, in 96 directions each. A part that shows through a
    narrow gap only may be taken for hidden.
    """
    if not parts:
        return []
    everything = Boxes(np.concatenate([part.corners for part in parts]))
    size = float(np.ptp(np.concatenate([part.vertices for part in parts]), axis=0).max())
    directions = _evenly(_RAYS)
    return [part for part in parts if not _seen(part, everything, directions, 1e-6 * size)]


def _seen(part: Part, everything: Boxes, directions: Array, off: float) -> bool:
    points, normals = _spread(part)
    sides = (1.0,) if part.geometry.closed else (1.0, -1.0)
    for side in sides:
        for point, normal in zip(points, side * normals, strict=True):
            outward = directions * np.where(directions @ normal < 0, -1.0, 1.0)[:, None]
            starts = np.broadcast_to(point + off * normal, outward.shape)
            if np.isinf(everything.hits(starts, outward)).any():
                return True
    return False


def _spread(part: Part) -> tuple[Array, Array]:
    """Points spread evenly over a part's surface, and the normals there, (n, 3) each.

    Triangles by their share of the area, places in them by a low-discrepancy sequence (Roberts,
    "The Unreasonable Effectiveness of Quasirandom Sequences", 2018), folded into the triangle.
    """
    normals, areas = normals_and_areas(part.mesh)
    shares = np.cumsum(areas) / areas.sum()
    steps = np.arange(_POINTS)
    chosen = np.searchsorted(shares, (steps + 0.5) / _POINTS).clip(max=len(areas) - 1)
    u, v = (0.5 + steps * 0.7548776662466927) % 1, (0.5 + steps * 0.5698402909980532) % 1
    over = u + v > 1
    u, v = np.where(over, 1 - u, u), np.where(over, 1 - v, v)
    a, b, c = np.moveaxis(part.corners[chosen], 1, 0)
    points = a + u[:, None] * (b - a) + v[:, None] * (c - a)
    return points, normals[chosen] @ part.placement[:3, :3].T


def _evenly(count: int) -> Array:
    """Unit vectors spread evenly over the sphere (a Fibonacci spiral)."""
    turn = np.pi * (3 - np.sqrt(5)) * np.arange(count)
    z = 1 - 2 * (np.arange(count) + 0.5) / count
    ring = np.sqrt(1 - z * z)
    return np.column_stack([ring * np.cos(turn), ring * np.sin(turn), z])
