"""Finding the straight edge of a part that is nearest to a point."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from mooring.cad.part import Part
from mooring.cad.places.axis import Axis, with_usual_sign
from mooring.cad.spreading import normals_and_areas
from mooring.errors import ModelError
from mooring.geometry import Array, apply

_SHARP = float(np.cos(np.radians(28.0)))


def straight_edge(parts: Sequence[Part], near: Array) -> Axis:
    """The edge between two flat faces that is nearest to a point, and its direction.

    Args:
        parts: to search.
        near: (3,) [m].

    Raises:
        ModelError: there is no edge between flat faces.
    """
    best: tuple[float, Part, Array, Array] | None = None
    for part in parts:
        first, second = part.mesh.neighbours
        normals, _ = normals_and_areas(part.mesh)
        sharp = np.einsum("ij,ij->i", normals[first], normals[second]) < _SHARP
        flat = _on_planes(part, normals)
        chosen = sharp & flat[first] & flat[second]
        if not chosen.any():
            continue
        ends = part.vertices[part.mesh.between(first[chosen], second[chosen])]
        start, along = ends[:, 0], ends[:, 1] - ends[:, 0]
        lengths = np.einsum("ij,ij->i", along, along)
        share = np.clip(np.einsum("ij,ij->i", near - start, along) / lengths, 0, 1)
        off = np.linalg.norm(start + share[:, None] * along - near, axis=1)
        k = int(np.argmin(off))
        if best is None or off[k] < best[0]:
            best = float(off[k]), part, start[k], along[k]
    if best is None:
        names = " + ".join(part.name for part in parts[:3])
        raise ModelError(f"{names} has no edge between flat faces")
    _, part, start_of, way = best
    return Axis(start_of + way / 2, with_usual_sign(way), 0.0, f"edge of {part.name}")


def _on_planes(part: Part, normals: Array) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which triangles lie on flat faces of the part, (m,)."""
    flat = np.zeros(len(normals), dtype=bool)
    middles = apply(part.placement, part.mesh.corners.mean(axis=1))
    ways = normals @ part.placement[:3, :3].T
    for plane in part.planes:
        off = np.abs((middles - plane.centre) @ plane.normal)
        flat |= (ways @ plane.normal > 1 - 1e-6) & (off < 1e-6 + 1e-5 * plane.reach)
    return flat
