"""Whether a bore goes through its part or ends inside it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from mooring.cad.mesh import Mesh
from mooring.cad.surfaces import CylindricalFace, Surface
from mooring.geometry import Array, frame_along

# How far past its end a bore is looked at, in radii: a drill's tip is 0.6 radii deep.
_BEYOND = 1.0
# Not quite on the axis, where triangles of a round bottom meet and rays slip between.
_ASIDE = 0.07


def with_open_ends(surfaces: list[Surface], mesh: Mesh) -> tuple[Surface, ...]:
    """The surfaces of a part, in which every bore knows how many of its ends are open."""
    walls = _Walls(mesh.corners)
    return tuple(
        replace(face, open_ends=_open_ends(face, walls))
        if isinstance(face, CylindricalFace) and face.kind == "bore"
        else face
        for face in surfaces
    )


def _open_ends(bore: CylindricalFace, walls: _Walls) -> int:
    ends = 0
    frame = frame_along(bore.direction)
    for sign in (-1.0, 1.0):
        out = sign * bore.direction
        start = bore.centre + frame[:, 0] * _ASIDE * bore.radius
        start = start + frame[:, 1] * 0.6 * _ASIDE * bore.radius
        # From a little before the end: what is deeper inside does not close it.
        near = bore.length / 2 - 0.1 * min(bore.radius, bore.length)
        far = bore.length / 2 + _BEYOND * bore.radius
        ends += not walls.stop(start + near * out, out, far - near)
    return ends


class _Walls:
    """Triangles (m, 3, 3) [m] that may stop a rod."""

    def __init__(self, corners: Array) -> None:
        self._corners = corners
        self._low, self._high = corners.min(axis=1), corners.max(axis=1)

    def stop(self, start: Array, direction: Array, length: float) -> bool:
        """Whether a piece of a line meets any triangle.

        Moeller, Trumbore, "Fast, minimum storage ray-triangle intersection", 1997.
        """
        end = start + direction * length
        low, high = np.minimum(start, end), np.maximum(start, end)
        near = (self._low <= high).all(axis=1) & (self._high >= low).all(axis=1)
        a, b, c = np.moveaxis(self._corners[near], 1, 0)
        one, two = b - a, c - a
        across = np.cross(direction, two)
        scale = np.einsum("ij,ij->i", one, across)
        flat = np.abs(scale) < 1e-18
        scale = np.where(flat, 1.0, scale)
        from_a = start - a
        u = np.einsum("ij,ij->i", from_a, across) / scale
        turned = np.cross(from_a, one)
        v = turned @ direction / scale
        along = np.einsum("ij,ij->i", two, turned) / scale
        inside = (u >= 0) & (v >= 0) & (u + v <= 1) & (along >= 0) & (along <= length)
        return bool((inside & ~flat).any())
