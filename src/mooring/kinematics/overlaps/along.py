"""How near links come to each other along a motion."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from mooring.kinematics.overlaps.measure import Clearance, Surroundings
from mooring.model import Robot
from mooring.tree import Tree
from mooring.tree.batches import rows

_STRETCH = 256
"""Positions that are measured together."""


@dataclass(frozen=True, eq=False)
class NearestPass:
    """Where two links come nearest to each other.

    Attributes:
        row: of the positions, the first at which they are that near.
        clearance: how near.
    """

    row: int
    clearance: Clearance


def clearances_along(
    robot: Robot, q: ArrayLike, *, beyond: float = 0.1, tree: Tree | None = None
) -> list[NearestPass]:
    """How near links come to each other along a motion, the nearest first.

    Left out are links joined directly, held together by fixed joints, or allowed to overlap.

    Args:
        robot: with collision shapes.
        q: positions along the motion, (k, n), such as `recording.positions()`.
        beyond: pairs that are never nearer than this are left out [m].
        tree: `robot.tree()`, if it is at hand.

    Raises:
        UnsoundRobotError: the robot is no tree.
        InputError: q has another length than the coordinates, or is not finite.

    Example:
        >>> from mooring import demo, read, simulate
        >>> tender = read(demo.LINE_TENDER.document)
        >>> run = simulate(tender, posture="stowed", seconds=0.1)
        >>> [p for p in clearances_along(tender, run.positions()) if p.clearance.distance < 0]
        []
    """
    around = Surroundings(robot, tree)
    pairs = around.pairs.judged
    states, _ = rows(around.tree, "q", q)
    nearest = np.full(len(pairs), np.inf)
    where = np.zeros(len(pairs), dtype=np.int64)
    spots = np.zeros((len(pairs), 9))
    for first in range(0, len(states), _STRETCH):
        distances, contacts = around.distances(states[first : first + _STRETCH], pairs, beyond)
        row = distances.argmin(axis=0)
        least = distances[row, np.arange(len(pairs))]
        better = least < nearest
        nearest[better], where[better] = least[better], first + row[better]
        spots[better] = contacts[row, np.arange(len(pairs))][better]
    found = [
        NearestPass(int(where[k]), Clearance(*pair, float(nearest[k]), *np.split(spots[k], 3)))
        for k, pair in enumerate(pairs)
        if nearest[k] < beyond
    ]
    return sorted(found, key=lambda one: one.clearance.distance)
