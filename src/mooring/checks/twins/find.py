"""Across which axis a robot's left is its right."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from mooring.geometry import Array
from mooring.model import Joint

_ALIKE = 0.01
"""How far ways may be from each other's image, as a share of the longest."""


@dataclass(frozen=True)
class Mirror:
    """A mirror across one of the axes of the robot's root.

    Attributes:
        axis: 0, 1 or 2: x, y or z.
        near: how far the image of a way may be from the other [m].
    """

    axis: int
    near: float

    def image(self, way: Array) -> Array:
        """The image of a way or a direction, (3,)."""
        image = np.array(way, dtype=float)
        image[self.axis] *= -1
        return image


def way_of(joint: Joint, places: Mapping[str, Array]) -> Array:
    """From the parent's frame to the child's at zero, in the root's axes, (3,) [m]."""
    way: Array = places[joint.child][:3, 3] - places[joint.parent][:3, 3]
    return way


def mirror_of(pairs: Sequence[tuple[Joint, Joint]], places: Mapping[str, Array]) -> Mirror | None:
    """The mirror in which most pairs of joints are each other's image; None where there is none.

    Args:
        pairs: joints that may be twins, by their names.
        places: of each link at zero, (4, 4).
    """
    if not pairs:
        return None
    ways = np.array([[way_of(one, places), way_of(other, places)] for one, other in pairs])
    near = _ALIKE * max(float(np.linalg.norm(ways, axis=2).max()), 1e-3)
    best: tuple[int, int] | None = None
    for axis in range(3):
        mirror = Mirror(axis, near)
        images = np.array([mirror.image(one) for one in ways[:, 0]])
        fits = np.linalg.norm(images - ways[:, 1], axis=1) < near
        telling = int((fits & (np.abs(ways[:, 0, axis]) > near)).sum())
        if telling and 2 * int(fits.sum()) >= len(pairs) and (best is None or telling > best[0]):
            best = telling, axis
    return None if best is None else Mirror(best[1], near)
