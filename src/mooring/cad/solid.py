"""What a solid of unit density weighs, and how it resists turning."""

from __future__ import annotations

from dataclasses import dataclass

from mooring.geometry import Array


@dataclass(frozen=True, eq=False)
class SolidProperties:
    """The integrals over a solid's volume.

    Attributes:
        volume: [m^3].
        centroid: (3,) [m].
        inertia: (3, 3) about the centroid for unit density [m^5].
    """

    volume: float
    centroid: Array
    inertia: Array

    def placed(self, place: Array) -> SolidProperties:
        """The same solid moved by a rigid placement (4, 4)."""
        rotation = place[:3, :3]
        return SolidProperties(
            self.volume,
            rotation @ self.centroid + place[:3, 3],
            rotation @ self.inertia @ rotation.T,
        )
