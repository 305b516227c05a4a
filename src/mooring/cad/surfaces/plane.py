"""Flat faces."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from mooring.geometry import Array


@dataclass(frozen=True, eq=False)
class PlanarFace:
    """A flat face of a part.

    Attributes:
        centre: of its area, (3,) [m].
        normal: unit vector out of the material, (3,).
        area: [m^2].
        reach: from the centre to its farthest corner [m].
        residual: how far its corners are off a true plane [m]; 0 where the file holds the plane.
    """

    centre: Array
    normal: Array
    area: float
    reach: float
    residual: float = 0.0

    def distance(self, points: Array) -> Array:
        """How far points (n, 3) are from the plane, (n,) [m]."""
        return np.abs((points - self.centre) @ self.normal)

    def placed(self, place: Array) -> PlanarFace:
        """The same face moved by a rigid placement (4, 4)."""
        turn = place[:3, :3]
        return replace(self, centre=turn @ self.centre + place[:3, 3], normal=turn @ self.normal)
