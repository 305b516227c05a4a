"""Clearances and overlaps between links at given positions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from mooring._native.kinematics import meetings, pair_distances
from mooring.geometry import Array
from mooring.kinematics.configuration import configuration
from mooring.kinematics.overlaps.pairs import Pair, Pairs, PairTable, pair_table, pairs_of
from mooring.kinematics.overlaps.shapes import Shapes, shapes_of
from mooring.model import Robot
from mooring.tree import Tree
from mooring.tree.arrays import Indices
from mooring.tree.batches import rows
from mooring.units import show


@dataclass(frozen=True, eq=False)
class Clearance:
    """How near two links come to each other.

    Attributes:
        first, second: their names.
        distance: between their shapes [m]; less than zero is how deep they overlap: the shortest
            way that parts them.
        on_first, on_second: the nearest points, (3,) [m], in the world.
        normal: unit vector from the first to the second.
    """

    first: str
    second: str
    distance: float
    on_first: Array
    on_second: Array
    normal: Array

    def __str__(self) -> str:
        how = "overlap by" if self.distance < 0 else "are apart by"
        return f"{self.first} and {self.second} {how} {show(abs(self.distance), 'length', 3)}"


class MetPairs(NamedTuple):
    """Pairs of links that are near each other; an entry for each pair and position.

    Attributes:
        state: the row of the position, (k,).
        first, second: the numbers of the links, (k,).
        distance: less than zero is how deep they overlap, (k,) [m].
    """

    state: Indices
    first: Indices
    second: Indices
    distance: Array


class Surroundings:
    """A robot's shapes, ready to be measured at many positions.

    Attributes:
        robot, tree: what they are of.
        shapes: the shapes.
        pairs, table: of links, by name and by number.
    """

    def __init__(self, robot: Robot, tree: Tree | None = None) -> None:
        """Fit the shapes and find the pairs.

        Raises:
            UnsoundRobotError: the robot is no tree.
        """
        self.robot = robot
        self.tree = tree or robot.tree()

    @cached_property
    def shapes(self) -> Shapes:
        return shapes_of(self.robot, self.tree)

    @cached_property
    def pairs(self) -> Pairs:
        return pairs_of(self.robot)

    @cached_property
    def table(self) -> PairTable:
        return pair_table(self.robot)

    def meetings(self, q: ArrayLike, moving: NDArray[np.uint8], below: float) -> MetPairs:
        """The judged pairs that are nearer to each other than a distance, of however many.

        Args:
            q: positions, (b, n).
            moving: (b, links): 1 for links that move together at a position, 0 for those that stay
                as they were; pairs of one number are not looked at. 2: all are looked at.
            below: [m]; less than zero for how deep they must overlap.

        Raises:
            InputError: q has another length than the coordinates, or is not finite.
        """
        states, _ = rows(self.tree, "q", q)
        judged = self.table.judged.astype(np.uint8)
        where, distances = meetings(
            self.tree.native, self.shapes.native, judged, states, moving, below
        )
        return MetPairs(where[:, 0], where[:, 1], where[:, 2], distances)

    def size(self, link: str) -> float:
        """The diameter of the largest ball around a shape of a link [m]."""
        first, last = self.shapes.rows[self.tree.link(link)]
        return float(2 * self.shapes.arrays.ball[first:last, 3].max(initial=0.0))

    def distances(
        self, q: ArrayLike, pairs: Sequence[Pair], beyond: float = np.inf
    ) -> tuple[Array, Array]:
        """Signed distances between links.

        Args:
            q: positions, (..., n).
            pairs: of links.
            beyond: pairs that are farther apart than this are not looked at closely [m].

        Returns:
            (..., p) [m], no more than `beyond`; and (..., p, 9): the nearest point on the first
            link, that on the second, and the normal from the first to the second, where the
            distance is less than `beyond`.

        Raises:
            InputError: q has another length than the coordinates, or is not finite.
            ModelError: no link has such a name.
        """
        states, shape = rows(self.tree, "q", q)
        wanted = [
            [*self.shapes.rows[self.tree.link(first)], *self.shapes.rows[self.tree.link(second)]]
            for first, second in pairs
        ]
        count = len(wanted)
        found = np.full((*shape, count), np.inf)
        contacts = np.zeros((*shape, count, 9))
        if count:
            between = np.array(wanted, dtype=np.int64)
            pair_distances(
                self.tree.native, self.shapes.native, between, states, beyond, found, contacts
            )
        return found, contacts


def clearances(
    robot: Robot,
    posture: str | Mapping[str, float | str] | None = None,
    *,
    beyond: float = np.inf,
) -> list[Clearance]:
    """How near links come to each other in a posture, the nearest first.

    Left out are links joined directly, held together by fixed joints, or allowed to overlap.

    Args:
        robot: with collision shapes.
        posture: a posture's name, or positions by joint.
        beyond: pairs farther apart than this are left out [m].

    Raises:
        ModelError, RunError: as `configuration`.
        UnsoundRobotError: the robot is no tree.

    Example:
        >>> from mooring import demo, read
        >>> [c for c in clearances(read(demo.LINE_TENDER.document)) if c.distance < 0]
        []
    """
    around = Surroundings(robot)
    q = configuration(robot, posture, around.tree)
    distances, contacts = around.distances(q, around.pairs.judged, beyond)
    found = [
        Clearance(*pair, float(d), contact[:3], contact[3:6], contact[6:])
        for pair, d, contact in zip(around.pairs.judged, distances, contacts, strict=True)
        if d < beyond
    ]
    return sorted(found, key=lambda clearance: clearance.distance)
