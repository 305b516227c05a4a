"""Places and directions spread evenly."""

from __future__ import annotations

import numpy as np

from mooring.cad.mesh import Mesh
from mooring.geometry import Array


def spread_over(mesh: Mesh, count: int) -> tuple[Array, Array]:
    """Points spread evenly over a surface, and the normals there, (count, 3) each.

    Triangles by their share of the area, places in them by a low-discrepancy sequence (Roberts,
    "The Unreasonable Effectiveness of Quasirandom Sequences", 2018), folded into the triangle.
    """
    normals, areas = normals_and_areas(mesh)
    shares = np.cumsum(areas) / areas.sum()
    steps = np.arange(count)
    chosen = np.searchsorted(shares, (steps + 0.5) / count).clip(max=len(areas) - 1)
    u, v = (0.5 + steps * 0.7548776662466927) % 1, (0.5 + steps * 0.5698402909980532) % 1
    over = u + v > 1
    u, v = np.where(over, 1 - u, u), np.where(over, 1 - v, v)
    a, b, c = np.moveaxis(mesh.corners[chosen], 1, 0)
    return a + u[:, None] * (b - a) + v[:, None] * (c - a), normals[chosen]


def normals_and_areas(mesh: Mesh) -> tuple[Array, Array]:
    """The unit normal (m, 3) and the area (m,) [m^2] of every triangle."""
    corners = mesh.corners
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    lengths = np.linalg.norm(cross, axis=1)
    return cross / np.where(lengths > 0, lengths, 1.0)[:, None], lengths / 2


def evenly(count: int) -> Array:
    """Unit vectors spread evenly over the sphere (a Fibonacci spiral)."""
    turn = np.pi * (3 - np.sqrt(5)) * np.arange(count)
    z = 1 - 2 * (np.arange(count) + 0.5) / count
    ring = np.sqrt(1 - z * z)
    return np.column_stack([ring * np.cos(turn), ring * np.sin(turn), z])
