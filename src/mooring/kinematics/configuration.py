"""From named joint positions to a full q in which couplings and closures hold."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from mooring.compiling import compiles
from mooring.errors import ModelError, RunError, did_you_mean
from mooring.geometry import Array
from mooring.kinematics.kernels.loops import close_loops
from mooring.model import Robot
from mooring.tree import Tree
from mooring.tree.arrays import FLOATING
from mooring.units import to_si

LOOP_TOLERANCE = 1e-9
"""Largest gap of a closed loop [m or rad]."""


def configuration(
    robot: Robot, posture: str | Mapping[str, float | str] | None = None, tree: Tree | None = None
) -> Array:
    """Positions of all moving joints for a posture.

    Joints not named are at zero, except followers and the joints of loops, which move with the
    named ones.

    Args:
        robot: whose joints.
        posture: the name of a posture, or positions by joint, e.g. `{"luff": "30 deg"}`; where
            something floats by its coordinates, e.g. `{"base.z": "0.4 m"}`.
        tree: `robot.tree()`, if it is at hand.

    Returns:
        q, (n,) [rad or m], in the order of `robot.coordinates`; what floats is where
        the CAD has it.

    Raises:
        ModelError: an unknown posture or joint, or a value with a wrong unit.
        RunError: a loop cannot be closed in this posture.
    """
    positions: Mapping[str, float]
    if isinstance(posture, str):
        if posture not in robot.postures:
            hint = did_you_mean(posture, list(robot.postures))
            raise ModelError(f"no posture is called {posture!r}{hint}")
        positions = robot.postures[posture]
        tree = tree or robot.tree()
        goal = tree.neutral()
    else:
        tree = tree or robot.tree()
        goal = tree.neutral()
        given = dict(posture or {})
        _place_what_floats(tree, goal, given)
        positions = robot.read_positions("the posture", given)
    for joint, value in positions.items():
        goal[tree.coordinate(joint)] = value
    name = f"posture {posture!r}" if isinstance(posture, str) else "this posture"
    return _follow(tree, goal, list(positions), name)


def _place_what_floats(tree: Tree, q: Array, given: dict[str, float | str]) -> None:
    """Take coordinates such as `base.x` out of what is given, and into q."""
    for first in tree.arrays.coordinate[tree.arrays.kind == FLOATING]:
        for k, name in enumerate(tree.coordinates[first : first + 7]):
            if name in given:
                q[first + k] = to_si(given.pop(name), "length" if k < 3 else "number")
        length = float(np.linalg.norm(q[first + 3 : first + 7]))
        if length < 1e-9:
            raise ModelError(f"the quaternion of {tree.coordinates[first][:-2]!r} is zero")
        q[first + 3 : first + 7] /= length


def _follow(tree: Tree, goal: Array, held: list[str], what: str) -> Array:
    """Move the held joints from zero to a goal, in as many steps as it takes to keep loops closed.

    Zero is where the CAD has the machine, and where its loops are closed: coming from there leads
    to the branch that the machine would come to.
    """
    failure: RunError | None = None
    for steps in (1, 4, 16, 64):
        q = goal.copy()
        chosen = [tree.coordinate(joint) for joint in held]
        try:
            for step in range(1, steps + 1):
                q[chosen] = goal[chosen] * (step / steps)
                q = closed(tree, q, held, what)
        except RunError as error:
            failure = failure or error
            continue
        return q
    assert failure is not None
    raise failure


@compiles("the loop solver")
def closed(tree: Tree, q: Array, held: list[str], what: str = "this posture") -> Array:
    """The positions nearest to q in which couplings and closures hold.

    Args:
        tree: from `robot.tree()`.
        q: where to start, (n,).
        held: names of the joints that must stay where they are.
        what: how messages call the position.

    Returns:
        (n,); a copy.

    Raises:
        RunError: the loops cannot be closed.
    """
    result = np.ascontiguousarray(q, dtype=float).copy()
    free = loop_freedoms(tree)
    for joint in held:
        free[tree.freedom(joint)] = False
    lower, upper = tree.joints.lower, tree.joints.upper
    start = result.copy()
    gap = close_loops(tree.arrays, tree.loops, result, free, lower, upper, LOOP_TOLERANCE, 60)
    if gap > LOOP_TOLERANCE:
        # The limits may have stopped the search: tell that apart from a loop out of reach.
        wide = np.full(len(lower), 1e9)
        beyond = start.copy()
        gap_beyond = close_loops(
            tree.arrays, tree.loops, beyond, free, -wide, wide, LOOP_TOLERANCE, 60
        )
        over = [
            name
            for k, name in enumerate(tree.freedoms)
            if free[k]
            and (at := tree.arrays.position[k]) >= 0
            and not lower[k] - 1e-9 <= beyond[at] <= upper[k] + 1e-9
        ]
        why = (
            f"{', '.join(over)} would have to go beyond the limits"
            if gap_beyond <= LOOP_TOLERANCE and over
            else f"{1000 * gap:.3g} mm or mrad remain open"
        )
        raise RunError(f"the loops of the robot do not close in {what}: {why}")
    return result


def loop_freedoms(tree: Tree) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which freedoms a coupling or closure can move, (m,)."""
    free = np.zeros(len(tree.freedoms), dtype=np.bool_)
    free[tree.loops.follower] = True
    free[tree.loops.leader] = True
    for first, second in zip(tree.loops.first, tree.loops.second, strict=True):
        for freedom in _chain(tree, first) ^ _chain(tree, second):
            free[freedom] = True
    return free


def _chain(tree: Tree, body: int) -> set[int]:
    """The freedoms between a body and the root."""
    found: set[int] = set()
    while body > 0:
        first = int(tree.arrays.freedom[body])
        if first >= 0:
            count = 6 if tree.arrays.kind[body] == FLOATING else 1
            found.update(range(first, first + count))
        body = int(tree.arrays.parent[body])
    return found
