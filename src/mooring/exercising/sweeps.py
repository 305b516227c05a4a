"""One joint through its range, the others where they are, loops and followers moving along."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from mooring.brief import Brief
from mooring.errors import RunError
from mooring.geometry import Array
from mooring.kinematics import follow_branch
from mooring.kinematics.mechanism.drivers import transmission
from mooring.model.definition.fields import Motion, dimension_of
from mooring.tree import Tree
from mooring.tree.arrays import TreeArrays
from mooring.units import show

_NO_LIMIT = {"rotation": np.pi, "translation": 0.5}
"""How far a joint without limits is moved either way [rad or m]."""


@dataclass(frozen=True, eq=False, repr=False)
class Sweep(Brief):
    """The way of one joint.

    Attributes:
        joint: its name.
        motion: whether it turns or slides.
        lower, upper: its limits; where it has none, as far as it was moved [rad or m].
        positions: of all joints along the way, (s, n), from the lower end to the upper.
        home: the row of them from which it began.
        stops: why it could not go all the way, a sentence each end.
        moving: names of the links that move with it.
        mass: of these [kg].
        doubts: positions of the joint where the mechanism could have changed its branch.
    """

    joint: str
    motion: Motion
    lower: float
    upper: float
    positions: Array
    home: int
    stops: tuple[str, ...]
    moving: tuple[str, ...]
    mass: float
    doubts: tuple[float, ...]


class Sweeper:
    """Moves the joints of a robot from where they are to both ends of their ranges.

    Attributes:
        tree: whose joints.
        home: where all joints are before, (n,).
        driven: those that decide where all others are; they stay.
    """

    def __init__(self, tree: Tree, home: Array, driven: list[str]) -> None:
        self.tree, self.home, self.driven = tree, home, driven
        self.moves = np.abs(transmission(tree, home, driven))
        # What a joint moves by itself goes straight to its goals.
        self.alone = (self.moves > 0).sum(axis=0) == 1

    def sweep(self, joint: str, steps: int) -> Sweep:
        """Move one joint.

        Args:
            joint: which one.
            steps: positions from end to end.
        """
        tree, home = self.tree, self.home
        row, at = tree.freedom(joint), tree.coordinate(joint)
        motion = tree.motions[row]
        lower, upper = float(tree.joints.lower[row]), float(tree.joints.upper[row])
        far = _NO_LIMIT[motion]
        lower = home[at] - far if not np.isfinite(lower) else lower
        upper = home[at] + far if not np.isfinite(upper) else upper
        column = self.driven.index(joint)
        ways, stops, doubts = [], [], []
        for end in (lower, upper):
            # Limits that are turned round, or beyond which it begins, leave nothing to go through.
            share = abs(end - home[at]) / (upper - lower) if upper > lower else 0.0
            goals = np.linspace(home[at], end, 1 + round(steps * min(share, 2.0)))[1:]
            if self.alone[column]:
                way = np.tile(home, (len(goals), 1))
                way[:, at] = goals
                ways.append(way)
                continue
            way, stop, doubtful = self._followed(joint, goals, end)
            ways.append(way)
            stops += stop
            doubts += doubtful
        bodies = moving_bodies(tree.arrays, self.moves[:, column])
        return Sweep(
            joint,
            motion,
            lower,
            upper,
            np.vstack([ways[0][::-1], home, ways[1]]),
            len(ways[0]),
            tuple(stops),
            tuple(tree.links[k] for k in bodies),
            float(tree.arrays.mass[bodies].sum()),
            tuple(doubts),
        )

    def _followed(
        self, joint: str, goals: Array, end: float
    ) -> tuple[Array, list[str], list[float]]:
        """Positions with the loops closed; why it stopped, and where a branch is in doubt."""
        tree, q = self.tree, self.home
        others = {n: float(q[tree.coordinate(n)]) for n in self.driven if n != joint}
        kind = dimension_of("position", tree.motions[tree.freedom(joint)])
        way: list[Array] = []
        doubts: list[float] = []
        for goal in goals:
            try:
                found = follow_branch(tree, q, {**others, joint: float(goal)})
            except RunError as error:
                here, there = show(float(q[tree.coordinate(joint)]), kind), show(end, kind)
                stop = f"{joint} stops at {here} on its way to {there}: {error}"
                return np.array(way).reshape(-1, len(q)), [stop], doubts
            if found.doubts:
                doubts.append(float(goal))
            q = found.q
            way.append(q)
        return np.array(way).reshape(-1, len(q)), [], doubts


def moving_bodies(arrays: TreeArrays, speeds: Array) -> list[int]:
    """The bodies that move when freedoms do, at these speeds (m,)."""
    moving = np.zeros(len(arrays.parent), dtype=bool)
    own = arrays.freedom
    moved = (own >= 0) & (speeds[own] > 1e-9)
    for body in range(int(np.argmax(moved)) if moved.any() else len(moving), len(moving)):
        moving[body] = moved[body] or (arrays.parent[body] >= 0 and moving[arrays.parent[body]])
    return [int(body) for body in np.flatnonzero(moving)]
