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
        posture: the name of a posture, or positions by joint, e.g. `{"luff": "30 deg"}`.
        tree: `robot.tree()`, if it is at hand.

    Returns:
        q, (m,) [rad or m], in the order of `robot.coordinates`.

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
    else:
        positions = robot.read_positions("the posture", posture or {})
    tree = tree or robot.tree()
    goal = np.zeros(len(tree.coordinates))
    for joint, value in positions.items():
        goal[tree.coordinate(joint)] = value
    name = f"posture {posture!r}" if isinstance(posture, str) else "this posture"
    return _follow(tree, goal, list(positions), name)


def _follow(tree: Tree, goal: Array, held: list[str], what: str) -> Array:
    """Move the held joints from zero to a goal, in as many steps as it takes to keep loops closed.

    Zero is where the CAD has the machine, and where its loops are closed: coming from there leads
    to the branch that the machine would come to.
    """
    failure: RunError | None = None
    for steps in (1, 4, 16, 64):
        q = np.zeros_like(goal)
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
        q: where to start, (m,).
        held: names of the joints that must stay where they are.
        what: how messages call the position.

    Returns:
        (m,); a copy.

    Raises:
        RunError: the loops cannot be closed.
    """
    result = np.ascontiguousarray(q, dtype=float).copy()
    free = loop_coordinates(tree)
    for joint in held:
        free[tree.coordinate(joint)] = False
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
            for k, name in enumerate(tree.coordinates)
            if free[k] and not lower[k] - 1e-9 <= beyond[k] <= upper[k] + 1e-9
        ]
        why = (
            f"{', '.join(over)} would have to go beyond the limits"
            if gap_beyond <= LOOP_TOLERANCE and over
            else f"{1000 * gap:.3g} mm or mrad remain open"
        )
        raise RunError(f"the loops of the robot do not close in {what}: {why}")
    return result


def loop_coordinates(tree: Tree) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which coordinates a coupling or closure can move, (m,)."""
    free = np.zeros(len(tree.coordinates), dtype=np.bool_)
    free[tree.loops.follower] = True
    free[tree.loops.leader] = True
    for first, second in zip(tree.loops.first, tree.loops.second, strict=True):
        for coordinate in _chain(tree, first) ^ _chain(tree, second):
            free[coordinate] = True
    return free


def _chain(tree: Tree, body: int) -> set[int]:
    """The coordinates between a body and the root."""
    found = set()
    while body > 0:
        if tree.arrays.coordinate[body] >= 0:
            found.add(int(tree.arrays.coordinate[body]))
        body = int(tree.arrays.parent[body])
    return found
