"""What a mirror does to places, points, directions and moments."""

from __future__ import annotations

from typing import Any

import numpy as np

from mooring.geometry import Array
from mooring.model.definition.markers import Geometric
from mooring.model.definition.walking import DESCEND, Change


def mirrored_inside(mirror: Array) -> Change:
    """The change that mirrors what is inside a definition.

    Args:
        mirror: (4, 4), across a plane through the origin.
    """
    turn = mirror[:3, :3]

    def change(marker: Any, value: Any) -> Any:
        if isinstance(marker, type):
            return value.mirrored(mirror) if hasattr(marker, "mirrored") else DESCEND
        if not isinstance(marker, Geometric):
            return DESCEND
        if marker.what == "placement":
            return value.mirrored(mirror)
        if marker.what == "moments":
            return moments_of(turn @ tensor_of(value) @ turn.T)
        return tuple(float(v) + 0.0 for v in turn @ np.array(value))

    return change


def tensor_of(moments: tuple[float, ...]) -> Array:
    """Ixx, iyy, izz, ixy, ixz, iyz as a tensor, (3, 3)."""
    ixx, iyy, izz, ixy, ixz, iyz = moments
    return np.array([[ixx, ixy, ixz], [ixy, iyy, iyz], [ixz, iyz, izz]])


def moments_of(tensor: Array) -> tuple[float, ...]:
    """The tensor (3, 3) as ixx, iyy, izz, ixy, ixz, iyz."""
    return tuple(float(v) for v in tensor[[0, 1, 2, 0, 0, 1], [0, 1, 2, 1, 2, 2]])
