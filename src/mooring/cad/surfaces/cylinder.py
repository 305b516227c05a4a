"""Cylindrical faces: the bores and pins that joints turn about."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from mooring.geometry import Array

FULL_ENOUGH = 0.7
"""Share of a full turn from which a round face is a bore or pin, and not a rounded edge."""


@dataclass(frozen=True, eq=False)
class CylindricalFace:
    """A cylindrical face of a part.

    Attributes:
        kind: `"bore"` when the material is outside, `"pin"` when it is inside.
        centre: the middle of the face's axis, (3,) [m].
        direction: unit vector along the axis, (3,); its sign means nothing.
        radius: [m].
        length: along the axis [m].
        coverage: the share of a full turn that the face spans.
        open_ends: of a bore, how many of its ends a rod through its middle could leave by: 2 when
            it goes through, 1 when it is blind, 0 when it is a hollow inside. Of a pin 0.
        residual: how far its corners are off a true cylinder [m]; 0 where the file holds one.
    """

    kind: Literal["bore", "pin"]
    centre: Array
    direction: Array
    radius: float
    length: float
    coverage: float
    open_ends: int = 0
    residual: float = 0.0

    @property
    def through(self) -> bool:
        """Whether it is a bore that is open at both ends."""
        return self.open_ends == 2

    @property
    def reach(self) -> float:
        """From the centre to its farthest point [m]."""
        return float(np.hypot(self.length / 2, self.radius))

    def distance(self, points: Array) -> Array:
        """How far points (n, 3) are from the endless cylinder, (n,) [m]."""
        arm = points - self.centre
        radial = np.linalg.norm(arm - np.outer(arm @ self.direction, self.direction), axis=1)
        return np.asarray(np.abs(radial - self.radius))

    def placed(self, place: Array) -> CylindricalFace:
        """The same face moved by a rigid placement (4, 4)."""
        return replace(
            self,
            centre=place[:3, :3] @ self.centre + place[:3, 3],
            direction=place[:3, :3] @ self.direction,
        )


def coaxial(
    one: CylindricalFace,
    other: CylindricalFace,
    angle: float = np.radians(0.3),
    distance: float = 1e-4,
) -> bool:
    """Whether two faces share an axis, within an angle [rad] and a distance [m]."""
    return bool(on_an_axis([one], [other], angle, distance)[0])


def on_an_axis(
    faces: Sequence[CylindricalFace],
    others: Sequence[CylindricalFace],
    angle: float = np.radians(0.3),
    distance: float = 1e-4,
) -> NDArray[np.bool_]:
    """Which faces share the axis of any of the others, (n,); see `coaxial`."""
    if not faces or not others:
        return np.zeros(len(faces), dtype=bool)
    ways = np.array([face.direction for face in faces])[:, None]
    along = np.array([face.direction for face in others])
    between = np.array([f.centre for f in others]) - np.array([f.centre for f in faces])[:, None]
    x, y, z = np.moveaxis(ways, -1, 0)
    u, v, w = along.T
    sine = np.sqrt((y * w - z * v) ** 2 + (z * u - x * w) ** 2 + (x * v - y * u) ** 2)
    off_axis = between - ways * (between * ways).sum(axis=-1, keepdims=True)
    near = np.sqrt((off_axis**2).sum(axis=-1)) <= distance
    return np.asarray(((sine <= np.sin(angle)) & near).any(axis=1))


def join_cylinders(faces: list[CylindricalFace]) -> list[CylindricalFace]:
    """One cylinder for the pieces of what a person sees as one bore or pin.

    CAD programs split a round face into halves, and the two cheeks of a fork carry one bore in two
    pieces; faces of one kind, axis and radius become one that spans them all.
    """
    joined: list[CylindricalFace] = []
    for face in faces:
        for index, known in enumerate(joined):
            same_radius = abs(known.radius - face.radius) <= 1e-3 * known.radius
            if known.kind == face.kind and same_radius and coaxial(known, face):
                joined[index] = _span_both(known, face)
                break
        else:
            joined.append(face)
    return [replace(c, coverage=min(1.0, c.coverage)) for c in joined]


def _span_both(one: CylindricalFace, other: CylindricalFace) -> CylindricalFace:
    shift = float((other.centre - one.centre) @ one.direction)
    low = min(-one.length / 2, shift - other.length / 2)
    high = max(one.length / 2, shift + other.length / 2)
    # Halves of the same stretch add up to a turn; pieces one behind the other do not.
    overlap = min(one.length / 2, shift + other.length / 2) - max(
        -one.length / 2, shift - other.length / 2
    )
    side_by_side = overlap > 0.5 * min(one.length, other.length)
    coverage = one.coverage + other.coverage if side_by_side else max(one.coverage, other.coverage)
    centre = one.centre + one.direction * (low + high) / 2
    return replace(one, centre=centre, length=high - low, coverage=coverage)
