"""Following a mechanism from one position to another without changing its branch.

Continuation by a tangent predictor and a Newton corrector with steps that adapt (Allgower and
Georg, Numerical Continuation Methods, 1990, chapter 6).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from mooring.arguments import proven
from mooring.errors import RunError
from mooring.geometry import Array
from mooring.kinematics.loops.closing import close_loops, loop_freedoms
from mooring.kinematics.loops.equations import equations
from mooring.tree import Tree

_STRIDE = {"rotation": 0.15, "translation": 0.03}
"""How far a driven joint goes in one step, where nothing asks for less [rad or m]."""
_SHORTEST = 1 / 256
"""Of a step."""
_BEND = 0.35
"""How much of a step the corrector may turn aside."""
_LOST = 1e-7
"""Ratio of singular values below which a direction counts as lost."""
_NEARLY = 1e-3
"""The same, for a direction that is about to be lost."""
_KICKS = (1e-3, -1e-3, 1e-2, -1e-2, 0.1, -0.1)
"""How a mechanism at a dead point is nudged off it [rad or m]."""


@dataclass(frozen=True, eq=False)
class BranchPath:
    """Where a mechanism came to.

    Attributes:
        q: (n,).
        doubts: positions of the driven joints, as shares of the way from 0 to 1, where the
            mechanism could have gone on in another branch; it was taken straight on.
    """

    q: Array
    doubts: tuple[float, ...]


@proven
def follow_branch(
    tree: Tree, start: Array, goals: Mapping[str, float], what: str = "this posture"
) -> BranchPath:
    """Move some joints to their goals, all at once, and the rest as loops and couplings want.

    Args:
        tree: from `robot.tree()`.
        start: where the loops are closed, or nearly, (n,).
        goals: positions of the joints that are driven.
        what: how messages call the goal.

    Returns:
        The position, and where its branch is in doubt.

    Raises:
        RunError: the loops cannot be closed on the way.
    """
    held = list(goals)
    places = [tree.coordinate(joint) for joint in held]
    first = np.asarray(start, dtype=float)
    change = np.array([goals[joint] - first[at] for joint, at in zip(held, places, strict=True)])
    there = first.copy()
    there[places] += change
    follower = _Follower(tree, held, places, change, what)
    if not len(tree.loops.first) or not follower.free.any():
        # Couplings alone are linear, and one step is exact; where all joints are given, nothing is
        # left to be followed.
        return BranchPath(close_loops(tree, there, held, what), ())
    try:
        return follower.run(close_loops(tree, first, held, what))
    except RunError:
        # So many joints are driven that the way between is closed to them, and the goal is not.
        try:
            return BranchPath(close_loops(tree, there, held, what), ())
        except RunError:
            pass
        raise


class _Follower:
    def __init__(
        self, tree: Tree, held: list[str], places: list[int], change: Array, what: str
    ) -> None:
        self.tree, self.held, self.places, self.what = tree, held, places, what
        self.change = change
        self.driven = np.zeros(len(tree.freedoms))
        rows = [tree.freedom(joint) for joint in held]
        self.driven[rows] = change
        self.free = loop_freedoms(tree)
        self.free[rows] = False
        strides = [_STRIDE[tree.motions[row]] for row in rows]
        count = np.ceil(np.abs(change) / strides).max(initial=1.0)
        self.step = 1.0 / max(1.0, float(count))

    def run(self, q: Array) -> BranchPath:
        self.rank = self._usual_rank(q)
        done, step = 0.0, self.step
        begin = q[self.places].copy()
        before: Array | None = None
        doubts: list[float] = []
        while done < 1.0 - 1e-12:
            step = min(step, 1.0 - done)
            rate, singular = self._rate(q)
            if singular and before is not None:
                rate = before
            last = step <= self.step * _SHORTEST
            reached = self._try(q, rate, step, begin + (done + step) * self.change, last)
            if reached is None:
                step /= 2
                continue
            if singular or last:
                doubts.append(done)
            way = self._between(q, reached) / step
            turned = before is not None and not _alike(before[self.free], way[self.free])
            if turned and not last:
                step /= 2
                continue
            before, q = way, reached
            done += step
            step = min(self.step, 2 * step)
        return BranchPath(q, tuple(doubts))

    def _rate(self, q: Array) -> tuple[Array, bool]:
        """How all freedoms move with the driven ones, and whether that is in doubt."""
        jacobian = equations(self.tree, q)[1]
        free = np.flatnonzero(self.free)
        rate = self.driven.copy()
        if not len(free):
            return rate, False
        left, sizes, right = np.linalg.svd(jacobian[:, free], full_matrices=False)
        kept = sizes > _LOST * sizes.max(initial=1e-30)
        wanted = -jacobian @ self.driven
        part = (left.T @ wanted)[kept] / sizes[kept]
        rate[free] = right[kept].T @ part
        least = sizes[self.rank - 1] if self.rank else np.inf
        return rate, bool(least < _NEARLY * sizes.max(initial=0.0))

    def _usual_rank(self, q: Array) -> int:
        """Of the equations for the free joints, where the mechanism is not special."""
        free = np.flatnonzero(self.free)
        random = np.random.default_rng(0)
        near, ranks = q, []
        for _ in range(4):
            sizes = np.linalg.svd(equations(self.tree, near)[1][:, free], compute_uv=False)
            ranks.append(int(np.count_nonzero(sizes > _LOST * sizes.max(initial=1e-30))))
            nudge = 0.02 * random.normal(size=len(self.driven)) * loop_freedoms(self.tree)
            try:
                near = close_loops(self.tree, self.tree.moved(q, nudge, 1.0), [], self.what)
            except RunError:
                near = q
        return max(ranks)

    def _try(self, q: Array, rate: Array, step: float, at: Array, last: bool) -> Array | None:
        """The position a step ahead; None where the step was too long."""
        ahead = self.tree.moved(q, rate, step)
        ahead[self.places] = at
        try:
            reached = close_loops(self.tree, ahead, self.held, self.what)
        except RunError:
            if last:
                return self._nudged(ahead)
            return None
        aside = np.abs(self._between(ahead, reached)).max(initial=0.0)
        length = step * np.abs(rate).max(initial=0.0)
        return None if aside > _BEND * length + 1e-6 and not last else reached

    def _nudged(self, ahead: Array) -> Array:
        """A closed position beside one where the equations do not say which way to go."""
        for kick in _KICKS:
            try:
                beside = self.tree.moved(ahead, np.where(self.free, kick, 0.0))
                return close_loops(self.tree, beside, self.held, self.what)
            except RunError:
                continue
        return close_loops(self.tree, ahead, self.held, self.what)

    def _between(self, one: Array, two: Array) -> Array:
        """The way of each turning or sliding freedom, (m,)."""
        positions = self.tree.arrays.position
        return np.where(positions < 0, 0.0, two[positions] - one[positions])


def _alike(one: Array, two: Array) -> bool:
    """Whether two velocities have much the same direction."""
    lengths = float(np.linalg.norm(one) * np.linalg.norm(two))
    return lengths < 1e-9 or float(one @ two) > 0.7 * lengths
