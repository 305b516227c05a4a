"""Conical faces: countersinks and tapers."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from mooring.geometry import Array


@dataclass(frozen=True, eq=False)
class ConicalFace:
    """A conical face of a part.

    Attributes:
        kind: `"countersink"` when the material is outside, `"taper"` when it is inside.
        apex: where the cone would come to a point, (3,) [m].
        direction: unit vector from the apex along the axis to the wide end, (3,).
        half_angle: between axis and face [rad].
        span: from where to where along the axis the face reaches, measured from the apex [m].
        coverage: the share of a full turn that the face spans.
        residual: how far its corners are off a true cone [m]; 0 where the file holds the cone.
    """

    kind: Literal["countersink", "taper"]
    apex: Array
    direction: Array
    half_angle: float
    span: tuple[float, float]
    coverage: float
    residual: float = 0.0

    def placed(self, place: Array) -> ConicalFace:
        """The same face moved by a rigid placement (4, 4)."""
        turn = place[:3, :3]
        return replace(self, apex=turn @ self.apex + place[:3, 3], direction=turn @ self.direction)

    @property
    def centre(self) -> Array:
        """The middle of the face's axis, (3,) [m]."""
        return self.apex + self.direction * sum(self.span) / 2

    @property
    def reach(self) -> float:
        """From the centre to its farthest point [m]."""
        return float(np.hypot(np.ptp(self.span) / 2, self.radius(self.span[1])))

    def distance(self, points: Array) -> Array:
        """How far points (n, 3) are from the endless cone, (n,) [m]."""
        arm = points - self.apex
        along = arm @ self.direction
        radial = np.linalg.norm(arm - np.outer(along, self.direction), axis=1)
        across = radial * np.cos(self.half_angle) - along * np.sin(self.half_angle)
        return np.asarray(np.abs(across))

    def radius(self, along: float) -> float:
        """The radius at a distance from the apex along the axis [m]."""
        return along * float(np.tan(self.half_angle))


def join_cones(faces: list[ConicalFace]) -> list[ConicalFace]:
    """One cone for the halves that CAD programs split a conical face into."""
    joined: list[ConicalFace] = []
    for face in faces:
        for index, known in enumerate(joined):
            if _same(known, face):
                joined[index] = replace(
                    known,
                    span=(min(known.span[0], face.span[0]), max(known.span[1], face.span[1])),
                    coverage=min(1.0, known.coverage + face.coverage),
                )
                break
        else:
            joined.append(face)
    return joined


def _same(one: ConicalFace, other: ConicalFace) -> bool:
    """Whether two faces are pieces of one cone, side by side."""
    return bool(
        one.kind == other.kind
        and abs(one.half_angle - other.half_angle) < 1e-3
        and one.direction @ other.direction > 1 - 1e-6
        and np.linalg.norm(one.apex - other.apex) < 1e-3 * one.span[1]
        and min(one.span[1], other.span[1]) > max(one.span[0], other.span[0])
    )
