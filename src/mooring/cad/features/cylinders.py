"""Bores and pins in a mesh: smooth regions whose corners lie on a cylinder."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from mooring.cad.cylinder import Cylinder, join_faces
from mooring.cad.features.regions import normals_and_areas, smooth_regions
from mooring.cad.mesh import Mesh
from mooring.geometry import Array, frame_along

# Neighbouring facets of a round face fold by less than this; most programs stay below 25 degrees.
_CREASE = float(np.radians(28))
_LARGEST_RESIDUAL = 0.005
"""Share of the radius by which corners may be off the fitted cylinder."""
_FEWEST_DIRECTIONS = 4
_SECTORS = 72


def find_cylinders(mesh: Mesh) -> tuple[Cylinder, ...]:
    """The cylindrical faces of a mesh.

    Regions are bounded by creases; the axis is the direction that the region's normals avoid, then
    axis and radius are fitted to the corners by least squares. Cylinders that run smoothly into
    other surfaces, as rounded edges do, are not told apart from them and not found.
    """
    if len(mesh.faces) < 6:
        return ()
    normals, areas = normals_and_areas(mesh)
    found = []
    for region in smooth_regions(mesh, normals, _CREASE):
        if len(region) >= 6:
            cylinder = _fit(mesh, normals[region], areas[region], region)
            if cylinder is not None:
                found.append(cylinder)
    return tuple(join_faces(found))


def _fit(mesh: Mesh, normals: Array, areas: Array, region: NDArray[np.int64]) -> Cylinder | None:
    weights = areas / max(float(areas.sum()), 1e-300)
    spread, directions = np.linalg.eigh(np.einsum("i,ij,ik->jk", weights, normals, normals))
    # A plane's normals leave two directions empty, a ball's or cone's none.
    if spread[0] > 1e-3 or spread[1] < 1e-3:
        return None
    if len(np.unique(np.round(normals @ directions[:, 1:], 2), axis=0)) < _FEWEST_DIRECTIONS:
        return None
    corners = np.unique(mesh.faces[region])
    fitted = _least_squares(mesh.vertices[corners], directions[:, 0])
    if fitted is None:
        return None
    origin, axis, radius = fitted
    centres = mesh.corners[region].mean(axis=1) - origin
    outward = centres - np.outer(centres @ axis, axis)
    facing = float((weights * np.einsum("ij,ij->i", outward, normals)).sum())
    heights = (mesh.vertices[corners] - origin) @ axis
    low, high = float(heights.min()), float(heights.max())
    return Cylinder(
        kind="pin" if facing > 0 else "bore",
        centre=origin + axis * (low + high) / 2,
        direction=axis,
        radius=radius,
        length=high - low,
        coverage=_coverage(mesh.corners[region] - origin, axis),
    )


def _least_squares(points: Array, guess: Array) -> tuple[Array, Array, float] | None:
    """A point on the axis, its direction and the radius; None where no cylinder fits."""
    middle = points.mean(axis=0)
    frame = frame_along(guess)
    local = (points - middle) @ frame
    # Kasa's circle: x^2 + y^2 = 2 a x + 2 b y + c.
    design = np.column_stack([2 * local[:, :2], np.ones(len(local))])
    (a, b, c), *_ = np.linalg.lstsq(design, (local[:, :2] ** 2).sum(axis=1), rcond=None)
    squared = c + a * a + b * b
    size = float(np.ptp(local, axis=0).max())
    if squared <= 0 or np.sqrt(squared) > 50 * size:
        return None

    def off(p: Array) -> Array:
        # The axis through (p0, p1, 0) leaning by p2, p3.
        direction = np.array([p[2], p[3], 1.0])
        direction /= np.linalg.norm(direction)
        arm = local - np.array([p[0], p[1], 0.0])
        radial = arm - np.outer(arm @ direction, direction)
        return np.asarray(np.linalg.norm(radial, axis=1) - p[4])

    start = np.array([a, b, 0.0, 0.0, np.sqrt(squared)])
    # Far from a cylinder no refining helps: most regions end here.
    if np.abs(off(start)).max() > 0.1 * start[4]:
        return None
    best = least_squares(off, start, x_scale=np.array([size, size, 0.1, 0.1, size]), max_nfev=12)
    radius = float(best.x[4])
    if radius <= 0 or np.abs(best.fun).max() > _LARGEST_RESIDUAL * radius:
        return None
    direction = np.array([best.x[2], best.x[3], 1.0])
    axis = frame @ (direction / np.linalg.norm(direction))
    return middle + frame @ np.array([best.x[0], best.x[1], 0.0]), axis, radius


def _coverage(corners: Array, axis: Array) -> float:
    """The share of a full turn in which there are triangles."""
    frame = frame_along(axis)
    local = corners @ frame[:, :2]
    angles = np.arctan2(local[..., 1], local[..., 0])
    # Each triangle spans from one of its corners to another, the short way round.
    start = angles[:, :1]
    span = np.mod(angles - start + np.pi, 2 * np.pi) - np.pi
    low = start[:, 0] + span.min(axis=1)
    sectors = np.zeros(_SECTORS, dtype=bool)
    width = 2 * np.pi / _SECTORS
    # A sector is covered when its middle is.
    first = np.ceil(low / width - 0.5 - 1e-9).astype(int)
    last = np.floor((low + np.ptp(span, axis=1)) / width - 0.5 + 1e-9).astype(int)
    for begin, end in zip(first, last, strict=True):
        sectors[np.arange(begin, end + 1) % _SECTORS] = True
    return float(sectors.mean())
