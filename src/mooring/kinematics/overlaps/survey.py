"""What overlaps over the whole range of a robot's joints, and what to do about it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from mooring.errors import RunError
from mooring.geometry import Array
from mooring.kinematics.loops import close_loops
from mooring.kinematics.overlaps.measure import Surroundings
from mooring.model import Robot
from mooring.tree import Tree
from mooring.units import show

_SPARE = 1e-3
"""What a proposed clearance leaves between shapes [m]."""
_COARSE = 0.1
"""A shape that would have to be shrunk by more than this share of its size is the wrong shape."""
_ROOM = 2**21
"""Distances that are held at a time."""
_NEAREST = 200
_TURN = np.pi
"""How far either way a joint without limits is tried [rad or m]."""


@dataclass(frozen=True, eq=False)
class Meeting:
    """Two links over many positions.

    Attributes:
        first, second: their names.
        neighbours: whether they are joined directly.
        distance: the least, less than zero where they overlap [m].
        q: where that is, (n,).
        at: which of the positions that is.
        share: of the positions in which they overlap, from 0 to 1.
        size: of the smaller link's largest shape [m].
    """

    first: str
    second: str
    neighbours: bool
    distance: float
    q: Array
    at: int
    share: float
    size: float

    @property
    def lasting(self) -> bool:
        """Whether they overlap in all positions."""
        return self.share == 1.0

    @property
    def clearance(self) -> float:
        """How much both links' shapes have to be shrunk so that they part [m]."""
        return max(0.0, -self.distance / 2 + _SPARE / 2)

    def proposal(self) -> str:
        """What to write, if this overlap is no fault of the machine."""
        if self.distance >= 0:
            return ""
        shrink = f"a clearance of {show(self.clearance, 'length', 2)} in their collision parts them"
        if self.clearance > _COARSE * self.size:
            shrink = "closer shapes, such as collision: pieces, may part them"
        if self.lasting:
            return (
                f"{shrink}; or, since they always overlap, "
                f"allowances: [{{between: [{self.first}, {self.second}]}}]"
            )
        return f"{shrink}; otherwise limit the joints, for the machine would hit itself"


@dataclass(frozen=True, eq=False)
class Survey:
    """What came of many positions.

    Attributes:
        positions: that were looked at, (b, n).
        meetings: of the pairs that overlap, and the nearest others, the deepest overlap first.
    """

    positions: Array
    meetings: tuple[Meeting, ...]

    @property
    def overlaps(self) -> tuple[Meeting, ...]:
        """Pairs that overlap somewhere and are not joined directly."""
        return tuple(m for m in self.meetings if m.distance < 0 and not m.neighbours)


def survey(robot: Robot, count: int = 200, seed: int = 0, tree: Tree | None = None) -> Survey:
    """Look for overlaps at random positions within the limits, and at the neutral one.

    Args:
        robot: with collision shapes.
        count: of positions.
        seed: of the random ones.
        tree: `robot.tree()`, if it is at hand.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    around = Surroundings(robot, tree)
    return survey_at(around, random_positions(around.tree, count, seed))


def survey_at(around: Surroundings, q: Array) -> Survey:
    """Look for overlaps at given positions (b, n)."""
    pairs = (*around.pairs.judged, *around.pairs.neighbours)
    least = np.full(len(pairs), np.inf)
    worst, overlapping = np.zeros((2, len(pairs)), dtype=np.int64)
    stretch = max(1, _ROOM // max(len(pairs), 1))
    for begin in range(0, len(q), stretch):
        distances, _ = around.distances(q[begin : begin + stretch], pairs)
        row = distances.argmin(axis=0)
        found = np.take_along_axis(distances, row[None], axis=0)[0]
        worst[found < least] = (begin + row)[found < least]
        least = np.minimum(least, found)
        overlapping += (distances < 0).sum(axis=0)
    order = np.argsort(least, kind="stable")
    # Of pairs that never meet only the nearest are of interest.
    kept = order[: int((least < 0).sum()) + _NEAREST]
    sizes = {name: around.size(name) for k in kept for name in pairs[k]}
    return Survey(
        q,
        tuple(
            Meeting(
                pairs[k][0],
                pairs[k][1],
                k >= len(around.pairs.judged),
                float(least[k]),
                q[worst[k]],
                int(worst[k]),
                float(overlapping[k]) / len(q),
                min(sizes[name] for name in pairs[k]),
            )
            for k in kept
        ),
    )


def random_positions(tree: Tree, count: int, seed: int = 0) -> Array:
    """Positions within the limits in which the loops are closed, (b, n); the neutral one first.

    There are fewer than `count` where loops could not be closed.
    """
    random = np.random.default_rng(seed)
    neutral = tree.neutral()
    lower = np.where(np.isfinite(tree.joints.lower), tree.joints.lower, -_TURN)
    upper = np.where(np.isfinite(tree.joints.upper), tree.joints.upper, _TURN)
    places = tree.arrays.position
    joints = places >= 0
    found = [neutral]
    tied = len(tree.loops.follower) + len(tree.loops.first) > 0
    for _ in range(count - 1):
        q = neutral.copy()
        share = random.uniform(size=len(lower))
        q[places[joints]] = (lower + share * (upper - lower))[joints]
        if tied:
            try:
                q = close_loops(tree, q, [])
            except RunError:
                continue
        found.append(q)
    return np.array(found)
