"""An axis found in the geometry, for a joint to be placed on."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from mooring.geometry import Array


@dataclass(frozen=True, eq=False)
class Axis:
    """A line in the assembly's coordinates.

    Attributes:
        origin: a point on it, (3,) [m].
        direction: unit vector, (3,); along the coordinate axis it is closest to.
        radius: of the bore it was found in [m].
        found: in words, what it was found from.
    """

    origin: Array
    direction: Array
    radius: float
    found: str


def with_usual_sign(direction: Array) -> Array:
    """The direction or its opposite, whichever has its largest component positive."""
    direction = direction / np.linalg.norm(direction)
    # Clean the noise of 1e-17 that rotations leave, so that written files read well.
    direction = np.where(np.abs(direction) < 1e-12, 0.0, direction)
    largest = int(np.argmax(np.abs(direction)))
    return np.asarray(direction if direction[largest] > 0 else -direction)
