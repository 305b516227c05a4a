"""How long it takes from one named posture to another."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from mooring.geometry import Array
from mooring.tree import Tree


@dataclass(frozen=True)
class Change:
    """The way between two named postures.

    Attributes:
        start, end: their names.
        seconds: at the joints' velocity limits, all moving at once; None where a joint that moves
            has none.
        slowest: the joint that takes so long, or that has no limit.
    """

    start: str
    end: str
    seconds: float | None
    slowest: str


def changes(tree: Tree, postures: Mapping[str, Array]) -> list[Change]:
    """All changes between named postures, either way the same.

    Args:
        tree: whose joints.
        postures: positions (n,) by name.
    """
    found = []
    places = tree.arrays.position
    joints = np.flatnonzero(places >= 0)
    limits = tree.joints.velocity[joints]
    for one, other in combinations(postures, 2):
        way = np.abs(postures[other] - postures[one])[places[joints]]
        moving = way > 1e-9
        if not moving.any():
            continue
        unlimited = moving & ~np.isfinite(limits)
        if unlimited.any():
            name = tree.freedoms[joints[np.argmax(unlimited)]]
            found.append(Change(one, other, None, name))
            continue
        times = np.where(moving, way / np.maximum(limits, 1e-30), 0.0)
        slow = int(np.argmax(times))
        found.append(Change(one, other, float(times[slow]), tree.freedoms[joints[slow]]))
    return found
