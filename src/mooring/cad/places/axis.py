"""An axis found in the geometry, for a joint to be placed on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mooring.errors import ModelError
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


def direction_of(words: str | Sequence[float]) -> Array:
    """A unit vector (3,) from `"x"`, `"-z"`, `"+y"` or three numbers.

    Raises:
        ModelError: it is no direction.
    """
    if isinstance(words, str):
        sign, name = (words[0], words[1:]) if words[:1] in ("+", "-") else ("+", words)
        if name in ("x", "y", "z"):
            return np.asarray(np.eye(3)["xyz".index(name)] * (-1.0 if sign == "-" else 1.0))
    else:
        vector = np.asarray(words, dtype=float)
        if vector.shape == (3,) and np.isfinite(vector).all() and np.linalg.norm(vector) > 0:
            return np.asarray(vector / np.linalg.norm(vector))
    raise ModelError(f"{words!r} is no direction; write x, -z or three numbers")


def with_usual_sign(direction: Array) -> Array:
    """The direction or its opposite, whichever has its largest component positive."""
    direction = direction / np.linalg.norm(direction)
    # Clean the noise of 1e-17 that rotations leave, so that written files read well.
    direction = np.where(np.abs(direction) < 1e-12, 0.0, direction)
    largest = int(np.argmax(np.abs(direction)))
    return np.asarray(direction if direction[largest] > 0 else -direction)
