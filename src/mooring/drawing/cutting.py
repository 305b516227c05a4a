"""Cutting meshes with a plane: what lies in front of it, and the faces that the cut leaves."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from mooring.cad import Mesh
from mooring.errors import ModelError
from mooring.geometry import Array, frame_along, placement
from mooring.units import to_si

_NEAR = 1e-9
"""Points nearer to the plane than this share of the mesh's size are moved off it."""


@dataclass(frozen=True, eq=False)
class CuttingPlane:
    """A plane; what lies on the side its normal points to is cut away.

    Attributes:
        normal: unit vector, (3,).
        distance: from the origin along the normal [m].
    """

    normal: Array
    distance: float

    @staticmethod
    def of(said: str) -> CuttingPlane:
        """A plane as people say it: `"x"`, `"y = 200 mm"`, `"-z=1 m"` keeps what is above.

        Raises:
            ModelError: it is none.
        """
        axis, _, at = said.replace(" ", "").partition("=")
        name = axis.lstrip("+-")
        if name not in ("x", "y", "z") or len(name) + axis.count("-") + axis.count("+") > 2:
            raise ModelError(f"cannot read the section {said!r}; write it as x, or y=200mm")
        try:
            place = to_si(at or 0.0, "length")
        except ValueError as error:
            raise ModelError(f"the section {said!r}: {error}") from None
        way = -1.0 if axis.startswith("-") else 1.0
        normal = way * np.eye(3)["xyz".index(name)]
        return CuttingPlane(normal, way * place)

    def beyond(self, points: Array) -> Array:
        """How far points (n, 3) lie on the side that is cut away, (n,) [m]."""
        return np.asarray(points @ self.normal - self.distance)


def kept_part(mesh: Mesh, beyond: Array) -> Mesh | None:
    """The part of a mesh where `beyond`, of its vertices (n,), is not above zero; None if nothing.

    Triangles that are cut become one or two. Paint is kept.
    """
    inside = (beyond <= 0)[mesh.faces]
    if not inside.any():
        return None
    if inside.all():
        return mesh
    whole = inside.all(axis=1)
    corners, owners = [mesh.vertices[mesh.faces[whole]]], [np.flatnonzero(whole)]
    for number in np.flatnonzero(inside.any(axis=1) & ~whole):
        face = mesh.faces[number]
        pieces = _kept_of_triangle(mesh.vertices[face], beyond[face])
        corners.append(pieces)
        owners.append(np.full(len(pieces), number))
    triangles = np.concatenate(corners)
    paint = mesh.paint
    if paint is not None:
        paint = type(paint)(paint.colors, paint.of_triangle[np.concatenate(owners)])
    faces = np.arange(3 * len(triangles)).reshape(-1, 3)
    return Mesh(triangles.reshape(-1, 3), faces, paint=paint)


def _kept_of_triangle(corners: Array, beyond: Array) -> Array:
    """What is kept of a triangle, as one or two triangles (k, 3, 3)."""
    kept = []
    for k in range(3):
        j = (k + 1) % 3
        if beyond[k] <= 0:
            kept.append(corners[k])
        if (beyond[k] <= 0) != (beyond[j] <= 0):
            share = beyond[k] / (beyond[k] - beyond[j])
            kept.append(corners[k] + share * (corners[j] - corners[k]))
    return np.array([[kept[0], kept[k], kept[k + 1]] for k in range(1, len(kept) - 1)])


def cut_face(points: Array, mesh: Mesh, plane: CuttingPlane) -> Mesh | None:
    """The face where a plane cuts a closed mesh; None where it does not.

    The outline, a heap of segments, is filled by the even-odd rule in strips between the heights
    of its corners: every strip is made of trapezoids.

    Args:
        points: the mesh's vertices in the world, (n, 3) [m].
        mesh: whose faces these are.
        plane: that cuts.
    """
    beyond = plane.beyond(points)
    size = float(np.abs(beyond).max(initial=0.0))
    beyond = np.where(np.abs(beyond) < _NEAR * size, _NEAR * size, beyond)
    above = (beyond > 0)[mesh.faces]
    crossed = mesh.faces[above.any(axis=1) & ~above.all(axis=1)]
    if not len(crossed):
        return None
    frame = placement(plane.distance * plane.normal, frame_along(plane.normal))
    flat = (points - frame[:3, 3]) @ frame[:3, :2]
    strips = _filled(_segments(flat, beyond, crossed))
    if not len(strips):
        return None
    count = len(strips)
    corners = strips.reshape(-1, 2) @ frame[:3, :2].T + frame[:3, 3]
    first = 4 * np.arange(count)[:, None]
    faces = np.concatenate([first + np.array(half) for half in ((0, 1, 2), (0, 2, 3))])
    return Mesh(corners, faces.astype(np.int64))


def _segments(flat: Array, beyond: Array, crossed: NDArray[np.int64]) -> Array:
    """Where triangles cross the plane, (k, 2, 2)."""
    ends = []
    for face in crossed:
        cut = []
        for k in range(3):
            i, j = face[k], face[(k + 1) % 3]
            if (beyond[i] > 0) != (beyond[j] > 0):
                share = beyond[i] / (beyond[i] - beyond[j])
                cut.append(flat[i] + share * (flat[j] - flat[i]))
        ends.append(cut)
    return np.array(ends)


def _filled(segments: Array) -> Array:
    """Trapezoids that fill an outline by the even-odd rule, (k, 4, 2)."""
    low, high = segments[:, :, 1].min(axis=1), segments[:, :, 1].max(axis=1)
    levels = np.unique(np.round(np.concatenate([low, high]), 12))
    found = []
    for bottom, top in pairwise(levels):
        middle = (bottom + top) / 2
        there = segments[(low < middle) & (high > middle)]
        if len(there) < 2:
            continue
        rise = there[:, 1, 1] - there[:, 0, 1]
        slope = (there[:, 1, 0] - there[:, 0, 0]) / rise
        at = [there[:, 0, 0] + slope * (level - there[:, 0, 1]) for level in (bottom, middle, top)]
        order = np.argsort(at[1])
        for left, right in zip(order[0::2], order[1::2], strict=False):
            found.append(
                [(at[0][left], bottom), (at[0][right], bottom), (at[2][right], top),
                 (at[2][left], top)]
            )  # fmt: skip
    return np.array(found).reshape(-1, 4, 2)
