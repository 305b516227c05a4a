"""One thing that is not the same, and the numbers by which it is told."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from mooring.geometry import Array
from mooring.units import show

MOVED = 1e-7
"""[m]"""
TURNED = 1e-7
"""[rad]"""
_SAME = 1e-9
"""Relative difference of numbers."""


@dataclass(frozen=True)
class Difference:
    """One thing that is not the same.

    Attributes:
        kind: robot, scene, link, joint, ..., as in `mooring.model.registry`.
        name: of the item.
        what: which property, such as `limits.upper`, or `"added"` and `"removed"`.
        message: in words, with the numbers.
        before, after: the values, as JSON takes them; None where there is none.
    """

    kind: str
    name: str
    what: str
    message: str
    before: Any = None
    after: Any = None

    def __str__(self) -> str:
        return self.message


def differ(one: float, two: float) -> bool:
    """Whether two numbers are not the same."""
    return abs(one - two) > _SAME * max(abs(one), abs(two), 1e-6)


def angle_between(old: Array, new: Array) -> float:
    """By which one rotation (3, 3) differs from another [rad]."""
    between = old.T @ new
    sine = np.linalg.norm(between - between.T) / (2 * np.sqrt(2))
    return float(np.arctan2(sine, (np.trace(between) - 1) / 2))


def length_words(value: float) -> str:
    """A length that may be tiny."""
    return show(value, "length", 3) if value >= 1e-6 else f"{1e6 * value:.2g} µm"


def angle_words(value: float) -> str:
    """An angle."""
    return show(value, "angle", 3)
