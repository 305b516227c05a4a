"""Spherical faces: balls and sockets."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from mooring.geometry import Array


@dataclass(frozen=True, eq=False)
class SphericalFace:
    """A spherical face of a part.

    Attributes:
        kind: `"socket"` when the material is outside, `"ball"` when it is inside.
        centre: (3,) [m].
        radius: [m].
        coverage: the share of the whole sphere that the face spans.
        residual: how far its corners are off a true sphere [m]; 0 where the file holds the sphere.
    """

    kind: Literal["socket", "ball"]
    centre: Array
    radius: float
    coverage: float
    residual: float = 0.0

    @property
    def reach(self) -> float:
        """From the centre to its farthest point [m]."""
        return self.radius

    def distance(self, points: Array) -> Array:
        """How far points (n, 3) are from the whole sphere, (n,) [m]."""
        return np.asarray(np.abs(np.linalg.norm(points - self.centre, axis=1) - self.radius))

    def placed(self, place: Array) -> SphericalFace:
        """The same face moved by a rigid placement (4, 4)."""
        return replace(self, centre=place[:3, :3] @ self.centre + place[:3, 3])


def join_spheres(faces: list[SphericalFace]) -> list[SphericalFace]:
    """One sphere for the pieces that CAD programs split a spherical face into."""
    joined: list[SphericalFace] = []
    for face in faces:
        for index, known in enumerate(joined):
            if (
                known.kind == face.kind
                and abs(known.radius - face.radius) <= 1e-3 * known.radius
                and np.linalg.norm(known.centre - face.centre) <= 1e-3 * known.radius
            ):
                coverage = min(1.0, known.coverage + face.coverage)
                joined[index] = replace(known, coverage=coverage)
                break
        else:
            joined.append(face)
    return joined
