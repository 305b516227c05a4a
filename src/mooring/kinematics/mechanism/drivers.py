"""Which joints drive a mechanism, and how the rest moves with them."""

from __future__ import annotations

import numpy as np

from mooring.geometry import Array
from mooring.kinematics.loops.closing import loop_freedoms
from mooring.kinematics.loops.equations import equations
from mooring.kinematics.mechanism.usual import rank, usual_jacobian
from mooring.model import Robot
from mooring.tree import Tree

_LOST = 1e-7


def drivers(robot: Robot, tree: Tree, q: Array) -> list[str]:
    """Joints that together decide where all others are, those with motors first.

    Args:
        robot, tree: whose joints.
        q: a position in which the loops are closed, (n,).

    Returns:
        Names of turning and sliding joints, in the order of v.
    """
    tied = loop_freedoms(tree)
    jacobian = usual_jacobian(tree, q)
    full = rank(jacobian)
    motors = {motor.joint for motor in robot.motors.values()}
    followers = set(robot.couplings)
    rows = [k for k in range(len(tree.freedoms)) if tree.arrays.position[k] >= 0]
    rows.sort(key=lambda k: (tree.freedoms[k] not in motors, tree.freedoms[k] in followers))
    chosen: list[int] = []
    rest = np.ones(len(tree.freedoms), dtype=bool)
    for row in rows:
        if not tied[row]:
            chosen.append(row)
            continue
        rest[row] = False
        # What is left must still be able to keep the loops closed whatever this one does.
        if rank(jacobian[:, rest]) == full:
            chosen.append(row)
        else:
            rest[row] = True
    return [tree.freedoms[row] for row in sorted(chosen)]


def transmission(tree: Tree, q: Array, driven: list[str]) -> Array:
    """How all freedoms move with the driven ones, (m, d), where the loops are closed.

    What floats and is not driven stays where it is.
    """
    jacobian = equations(tree, q)[1]
    rows = [tree.freedom(name) for name in driven]
    free = loop_freedoms(tree)
    free[rows] = False
    moves = np.zeros((len(tree.freedoms), len(rows)))
    moves[rows, range(len(rows))] = 1.0
    if free.any() and len(jacobian):
        moves[free] = np.linalg.lstsq(jacobian[:, free], -jacobian @ moves, rcond=_LOST)[0]
    return moves
