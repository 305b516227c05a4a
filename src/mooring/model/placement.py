"""Where a thing sits: a rigid placement, and what it is measured from."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BeforeValidator, WithJsonSchema

from mooring.cad import Axis, Frame
from mooring.geometry import Array, inverse, placement, rotation_from_rpy
from mooring.model.fields import Angles, Described, Lengths

Reference = Literal["link", "cad"]


class PlacementEntry(Described):
    """A placement as it is written.

    Attributes:
        xyz: position [m].
        rpy: fixed-axis roll, pitch, yaw [rad].
        relative_to: `"link"`, the link it is attached to (for a joint, its parent link), or
            `"cad"`, the coordinates of the CAD file.
    """

    xyz: Lengths = (0.0, 0.0, 0.0)
    rpy: Angles = (0.0, 0.0, 0.0)
    relative_to: Reference = "link"


@dataclass(frozen=True, eq=False)
class Placement:
    """A rigid placement.

    Attributes:
        matrix: (4, 4) [m].
        relative_to: see `PlacementEntry`.
    """

    matrix: Array = field(default_factory=lambda: np.eye(4))
    relative_to: Reference = "link"

    def in_link(self, link_frame: Array) -> Array:
        """The placement in link coordinates, given the link's frame in CAD coordinates."""
        if self.relative_to == "link":
            return self.matrix
        return inverse(link_frame) @ self.matrix

    @staticmethod
    def of(value: Any) -> Placement:
        """A placement from anything a user may give for one.

        Accepts a `Placement`, an `Axis` found in the CAD (its origin, frame parallel to the CAD's),
        a `Frame` of the CAD, a mapping with xyz, rpy and relative_to, three lengths, a (4, 4)
        matrix, or None.
        """
        if value is None:
            return Placement()
        if isinstance(value, Placement):
            return value
        if isinstance(value, Axis):
            return Placement(placement(value.origin), "cad")
        if isinstance(value, Frame):
            return Placement(_rigid(value.matrix), "cad")
        if isinstance(value, Mapping):
            entry = PlacementEntry.model_validate(dict(value))
            return Placement(placement(entry.xyz, rotation_from_rpy(entry.rpy)), entry.relative_to)
        matrix = np.asarray(value) if not isinstance(value, str) else np.empty(0)
        if matrix.shape == (4, 4):
            return Placement(_rigid(matrix.astype(float)))
        if matrix.shape == (3,):
            return Placement.of({"xyz": list(value)})
        raise ValueError(f"{value!r} is no placement; write {{xyz: [...], rpy: [...]}}")


def _rigid(matrix: Array) -> Array:
    rotation = matrix[:3, :3]
    if not np.isfinite(matrix).all():
        raise ValueError("the placement holds values that are not finite")
    if np.abs(rotation @ rotation.T - np.eye(3)).max() > 1e-9 or np.linalg.det(rotation) < 0:
        raise ValueError("the placement's rotation is no right-handed rotation matrix")
    return matrix


Where = Axis | Frame | Placement | Mapping[str, Any] | Sequence[float | str] | Array | None
"""What `Placement.of` accepts."""

PlacementField = Annotated[
    Placement,
    BeforeValidator(Placement.of),
    WithJsonSchema({"$comment": "a place"}),
]
