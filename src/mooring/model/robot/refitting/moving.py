"""What happens to places, points, directions and moments when their coordinates are others."""

from __future__ import annotations

from typing import Any

import numpy as np

from mooring.geometry import Array, apply
from mooring.model.definition.markers import Geometric
from mooring.model.definition.mirroring import moments_of, tensor_of
from mooring.model.definition.walking import DESCEND, Change
from mooring.model.placement import Placement


def moved_inside(place: Array, *, directions: bool = True) -> Change:
    """The change that expresses what is inside a definition in other coordinates.

    Args:
        place: of the old coordinates in the new ones, (4, 4).
        directions: whether these are along the link's axes, and not along those of a place.
    """
    turn = place[:3, :3]

    def change(marker: Any, value: Any) -> Any:
        if isinstance(marker, type) or not isinstance(marker, Geometric):
            return DESCEND
        if marker.what == "placement":
            fixed = value.relative_to == "cad"
            return value if fixed else Placement(place @ value.matrix)
        if marker.what == "moments":
            return moments_of(turn @ tensor_of(value) @ turn.T)
        if marker.what == "direction":
            return _three(turn @ np.array(value)) if directions else value
        return _three(apply(place, np.array([value]))[0])

    return change


def _three(values: Array) -> tuple[float, ...]:
    return tuple(float(v) + 0.0 for v in values)
