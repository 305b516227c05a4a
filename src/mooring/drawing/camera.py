"""Where the eye is and how it sees."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array

# Azimuth (from +x towards +y) and elevation of the eye, seen from the middle of the scene [deg].
ViewName = Literal["corner", "front", "back", "left", "right", "top", "bottom"]
VIEWS: dict[ViewName, tuple[float, float]] = {
    "corner": (-52.0, 22.0),
    "front": (0.0, 0.0),
    "back": (180.0, 0.0),
    "left": (90.0, 0.0),
    "right": (-90.0, 0.0),
    "top": (-90.0, 90.0),
    "bottom": (-90.0, -90.0),
}
_STRAIGHT = {"front", "back", "left", "right", "top", "bottom"}


Triple = tuple[float, float, float]


def triple(vector: ArrayLike) -> Triple:
    """Three components as a tuple."""
    x, y, z = (float(value) for value in np.asarray(vector))
    return x, y, z


class Eye(NamedTuple):
    """A camera for the compiled renderer."""

    position: Triple
    right: Triple
    up: Triple
    back: Triple
    pixel: float
    """size of a pixel at distance 1 (perspective) or anywhere (parallel) [m]"""
    width: int
    height: int
    far: float
    """parallel views measure nearness from here"""
    perspective: bool


@dataclass(frozen=True)
class Camera:
    """An eye that looks along `-back`, with `right` and `up` on the picture.

    Attributes:
        position: of the eye, (3,) [m].
        right, up, back: unit vectors, (3,).
        extent: half the picture's height: tangent of the angle in perspective, metres in a
            parallel view.
        perspective: whether far things are small.
    """

    position: Array
    right: Array
    up: Array
    back: Array
    extent: float
    perspective: bool

    def arrays(self, width: int, height: int, far: float) -> Eye:
        """The camera for a picture of some size in pixels."""
        pixel = 2 * self.extent / height
        return Eye(
            triple(self.position), triple(self.right), triple(self.up), triple(self.back),
            pixel, width, height, far, self.perspective,
        )  # fmt: skip

    def project(self, points: Array, width: int, height: int, far: float) -> Array:
        """Points (n, 3) [m] on the picture: x right, y down [pixels], and nearness."""
        eye = self.arrays(width, height, far)
        seen = points - self.position
        x, y, z = seen @ self.right, seen @ self.up, -(seen @ self.back)
        if self.perspective:
            nearness = np.where(z > 1e-6, 1 / np.maximum(z, 1e-6), 0.0)
            x, y = x * nearness, y * nearness
        else:
            nearness = far - z
        return np.ascontiguousarray(
            np.stack([x / eye.pixel + width / 2, height / 2 - y / eye.pixel, nearness], axis=1)
        )


def looking_at(points: Array, view: ViewName | tuple[float, float], aspect: float) -> Camera:
    """A camera that has all points in view.

    Args:
        points: (n, 3) [m].
        view: one of `VIEWS`, or azimuth and elevation of the eye [deg]. The six straight views
            are parallel projections, the others have perspective.
        aspect: width over height of the picture.

    Raises:
        ModelError: an unknown view.
    """
    if isinstance(view, str) and view not in VIEWS:
        raise ModelError(f"unknown view {view!r}{did_you_mean(view, list(VIEWS))}")
    azimuth, elevation = VIEWS[view] if isinstance(view, str) else view
    a, e = math.radians(azimuth), math.radians(elevation)
    back = np.array([math.cos(e) * math.cos(a), math.cos(e) * math.sin(a), math.sin(e)])
    right = np.array([-math.sin(a), math.cos(a), 0.0])
    up = np.cross(back, right)
    if isinstance(view, str) and view in _STRAIGHT:
        return _parallel(points, right, up, back, aspect)
    return _perspective(points, right, up, back, aspect)


_MARGIN = 1.12


def _parallel(points: Array, right: Array, up: Array, back: Array, aspect: float) -> Camera:
    local = points @ np.stack([right, up, back], axis=1)
    low, high = local.min(axis=0), local.max(axis=0)
    middle, half = (low + high) / 2, (high - low) / 2
    extent = _MARGIN * max(half[1], half[0] / aspect, 1e-4)
    distance = half[2] + 4 * extent + 1e-3
    position = right * middle[0] + up * middle[1] + back * (middle[2] + distance)
    return Camera(position, right, up, back, extent, False)


def _perspective(points: Array, right: Array, up: Array, back: Array, aspect: float) -> Camera:
    extent = math.tan(math.radians(13))
    axes = np.stack([right, up, back], axis=1)
    local = points @ axes
    middle = (local.min(axis=0) + local.max(axis=0)) / 2
    for _ in range(8):
        seen = local - middle
        wanted = np.maximum(np.abs(seen[:, 0]) / aspect, np.abs(seen[:, 1])) * _MARGIN / extent
        distance = max(float((wanted + seen[:, 2]).max()), 1e-3)
        flat = seen[:, :2] / (distance - seen[:, 2:])
        # Slide sideways until the picture's margins are even.
        shift = (flat.min(axis=0) + flat.max(axis=0)) / 2 * distance
        middle[:2] += shift
    return Camera(axes @ (middle + np.array([0, 0, distance])), right, up, back, extent, True)
