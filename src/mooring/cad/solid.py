"""What a solid of unit density weighs, and how it resists turning."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

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


def sum_of_solids(solids: Sequence[SolidProperties]) -> SolidProperties:
    """Several solids, in the same coordinates, as one.

    A solid whose triangles face inwards, which has its volume and inertia negative, takes nothing
    away from the others.
    """
    signs = [-1.0 if solid.volume < 0 else 1.0 for solid in solids]
    return SolidProperties(
        *sum_of_moments(
            [abs(solid.volume) for solid in solids],
            [solid.centroid for solid in solids],
            [sign * solid.inertia for sign, solid in zip(signs, solids, strict=True)],
        )
    )


def sum_of_moments(
    weights: Sequence[float], centres: Sequence[Array], tensors: Sequence[Array]
) -> tuple[float, Array, Array]:
    """Several bodies held together as one (parallel-axis theorem).

    Args:
        weights: masses, or volumes for unit density.
        centres: (3,) each.
        tensors: about the own centre, (3, 3) each.

    Returns:
        The total weight, the common centre, and the tensor about it; the first centre and a zero
        tensor where nothing weighs anything.
    """
    total = float(sum(weights))
    if total == 0:
        return 0.0, np.array(centres[0]) if len(centres) else np.zeros(3), np.zeros((3, 3))
    pairs = list(zip(weights, centres, strict=True))
    centre: Array = np.sum([weight * point for weight, point in pairs], axis=0) / total
    tensor = np.sum(tensors, axis=0)
    for weight, point in pairs:
        arm = point - centre
        tensor = tensor + weight * (arm @ arm * np.eye(3) - np.outer(arm, arm))
    return total, centre, tensor
