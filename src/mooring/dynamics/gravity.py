"""Gravity as the compiled core wants it."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring.errors import InputError, told
from mooring.geometry import Array
from mooring.standard import STANDARD_GRAVITY

DOWNWARDS = (0.0, 0.0, -STANDARD_GRAVITY)
"""[m/s^2], world axes."""
_DOWNWARDS = np.array(DOWNWARDS)


def pull(gravity: ArrayLike) -> Array:
    """(3,) [m/s^2].

    Raises:
        InputError: it is not three finite numbers.
    """
    if gravity is DOWNWARDS:
        return _DOWNWARDS
    given = np.ascontiguousarray(gravity, dtype=float)
    if given.shape != (3,) or not np.isfinite(given).all():
        raise InputError(f"gravity is three numbers [m/s^2], got {told(gravity)}")
    return given
