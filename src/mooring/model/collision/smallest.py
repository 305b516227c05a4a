"""The smallest box, cylinder, capsule or sphere that covers points, in any orientation."""

from __future__ import annotations

from collections.abc import Sequence
from typing import cast

import numpy as np
from scipy.spatial import ConvexHull, QhullError

from mooring.geometry import Array, frame_along, placement
from mooring.model.collision.definition import Line
from mooring.model.collision.directions import candidate_directions
from mooring.model.collision.enclosing import enclosing_ball
from mooring.model.shapes import Box, Capsule, Cylinder, Shape, Sphere

Fitted = tuple[Shape, Array]
"""A shape and its placement (4, 4)."""


def fit_sphere(points: Array, _: Sequence[Array] = ()) -> Fitted:
    """The smallest ball."""
    centre, radius = enclosing_ball(_hull(points)[0])
    return Sphere(radius), placement(centre)


def fit_box(points: Array, axes: Sequence[Array] = ()) -> Fitted:
    """The smallest box that is flush with one of the candidate directions."""
    hull, corners = _hull(points)

    def along(direction: Array) -> Fitted:
        frame = frame_along(direction)
        local = hull @ frame
        flat = frame @ _smallest_rectangle(local[:, :2])
        spans = hull @ flat
        low, high = spans.min(axis=0), spans.max(axis=0)
        x, y, z = (float(extent) for extent in high - low)
        return Box((x, y, z)), placement(flat @ ((low + high) / 2), flat)

    shape, place = _smallest([along(d) for d in candidate_directions(corners, axes)])
    return _with_usual_axes(cast("Box", shape), place)


def cylinder_about(points: Array, line: Line) -> Fitted:
    """The smallest cylinder about a line."""
    frame, across, along = _seen_along(points, line)
    low, high = float(along.min()), float(along.max())
    middle = np.array(line[0]) + frame[:, 2] * (low + high) / 2
    return Cylinder(float(across.max()), high - low), placement(middle, frame)


def capsule_about(points: Array, line: Line) -> Fitted:
    """The smallest capsule about a line."""
    frame, across, along = _seen_along(points, line)
    radius = float(across.max())
    reach = np.sqrt(np.maximum(radius**2 - across**2, 0))
    low, high = float((along + reach).min()), float((along - reach).max())
    if low > high:
        low = high = (low + high) / 2
    middle = np.array(line[0]) + frame[:, 2] * (low + high) / 2
    return Capsule(radius, high - low), placement(middle, frame)


def _seen_along(points: Array, line: Line) -> tuple[Array, Array, Array]:
    """A frame with z along a line, and how far points are from it and along it."""
    frame = frame_along(np.array(line[1]))
    local = (_hull(points)[0] - np.array(line[0])) @ frame
    return frame, np.linalg.norm(local[:, :2], axis=1), local[:, 2]


def fit_cylinder(points: Array, axes: Sequence[Array] = ()) -> Fitted:
    """The smallest cylinder about one of the candidate directions."""
    hull, corners = _hull(points)

    def along(direction: Array) -> Fitted:
        frame = frame_along(direction)
        local = hull @ frame
        centre, radius = enclosing_ball(local[:, :2])
        low, high = local[:, 2].min(), local[:, 2].max()
        middle = frame @ np.array([*centre, (low + high) / 2])
        return Cylinder(radius, float(high - low)), placement(middle, frame)

    return _smallest([along(d) for d in candidate_directions(corners, axes)])


def fit_capsule(points: Array, axes: Sequence[Array] = ()) -> Fitted:
    """The smallest capsule about one of the candidate directions."""
    hull, corners = _hull(points)

    def along(direction: Array) -> Fitted:
        frame = frame_along(direction)
        local = hull @ frame
        centre, radius = enclosing_ball(local[:, :2])
        # A point at distance d from the axis needs the cap's centre within sqrt(r^2 - d^2) of it.
        off_axis = ((local[:, :2] - centre) ** 2).sum(axis=1)
        reach = np.sqrt(np.maximum(radius**2 - off_axis, 0))
        low, high = float((local[:, 2] + reach).min()), float((local[:, 2] - reach).max())
        if low > high:
            low = high = (low + high) / 2
        middle = frame @ np.array([*centre, (low + high) / 2])
        return Capsule(radius, high - low), placement(middle, frame)

    return _smallest([along(d) for d in candidate_directions(corners, axes)])


def _smallest(fits: list[Fitted]) -> Fitted:
    # Earlier candidates are simpler (coordinate axes first): a later one must be truly smaller.
    best = fits[0]
    for candidate in fits[1:]:
        if candidate[0].volume < best[0].volume * (1 - 1e-6):
            best = candidate
    return best


def _hull(points: Array) -> tuple[Array, Array]:
    """The corners of the convex hull (n, 3), and its triangles (m, 3, 3)."""
    try:
        hull = ConvexHull(points)
    except (QhullError, ValueError):
        # Flat parts have no hull with a volume; give them a hair of thickness.
        spread = np.ptp(points, axis=0).max() * 1e-6 + 1e-9
        offsets = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)])
        points = (points[:, None, :] + offsets * spread).reshape(-1, 3)
        hull = ConvexHull(points)
    return points[hull.vertices], points[hull.simplices]


def _smallest_rectangle(points: Array) -> Array:
    """The turn about z (3, 3) that gives flat points (n, 2) their smallest rectangle."""
    try:
        outline = points[ConvexHull(points).vertices]
    except (QhullError, ValueError):
        return np.eye(3)
    edges = np.diff(np.vstack([outline, outline[:1]]), axis=0)
    angles = np.unique(np.round(np.arctan2(edges[:, 1], edges[:, 0]) % (np.pi / 2), 9))
    angles = np.concatenate([[0.0], angles])
    cos, sin = np.cos(angles), np.sin(angles)
    x = np.outer(cos, outline[:, 0]) + np.outer(sin, outline[:, 1])
    y = np.outer(cos, outline[:, 1]) - np.outer(sin, outline[:, 0])
    areas = np.ptp(x, axis=1) * np.ptp(y, axis=1)
    best = int(np.argmin(areas * (1 + 1e-9 * (angles != 0))))
    c, s = cos[best], sin[best]
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]])


def _with_usual_axes(shape: Box, place: Array) -> Fitted:
    """The same box with its axes named and pointed as near to x, y, z as they can be."""
    frame = place[:3, :3]
    order = [-1, -1, -1]
    left = [0, 1, 2]
    for target in np.argsort(-np.abs(frame).max(axis=1)):
        column = max(left, key=lambda c: abs(frame[target, c]))
        order[target] = column
        left.remove(column)
    turned = frame[:, order]
    turned = turned * np.where(np.diag(turned) < 0, -1.0, 1.0)
    if np.linalg.det(turned) < 0:
        turned[:, 2] *= -1
    turned = np.where(np.abs(turned) < 1e-12, 0.0, turned)
    x, y, z = (shape.size[c] for c in order)
    return Box((x, y, z)), placement(place[:3, 3], turned)
