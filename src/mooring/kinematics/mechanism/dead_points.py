"""Where a driven joint cannot move the rest, or may move it two ways."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from mooring.arguments import proven
from mooring.errors import ModelError, RunError
from mooring.geometry import Array
from mooring.kinematics.configuration import configuration
from mooring.kinematics.loops.closing import loop_freedoms
from mooring.kinematics.loops.equations import equations
from mooring.kinematics.loops.following import follow_branch
from mooring.model import Robot
from mooring.tree import Tree

_NEAR = 1e-3


@dataclass(frozen=True)
class DeadPoint:
    """A position of a driven joint.

    Attributes:
        joint: the driven one.
        position: [rad or m].
        stops: whether the mechanism comes no further; otherwise it may change its branch there.
    """

    joint: str
    position: float
    stops: bool


@proven
def dead_points(robot: Robot, joint: str, steps: int = 73) -> list[DeadPoint]:
    """Look for dead points over the range of a driven joint.

    At a dead point holding the joint no longer holds the loop: the equations of the other joints
    lose rank.

    Args:
        robot: with closures.
        joint: the driven one, with limits, or one that turns without end.
        steps: positions to look at.

    Raises:
        ModelError: no joint of that name turns or slides.
        UnsoundRobotError: the robot is no tree.
    """
    tree = robot.tree()
    row = tree.freedom(joint)
    lower, upper = tree.joints.lower[row], tree.joints.upper[row]
    if not np.isfinite([lower, upper]).all():
        if tree.motions[row] != "rotation":
            raise ModelError(f"joint {joint!r} has no limits to look between")
        lower, upper = 0.0, 2 * np.pi
    found: list[DeadPoint] = []
    for side in (lower, upper):
        q = configuration(robot, None, tree)
        way = np.linspace(q[tree.coordinate(joint)], side, steps // 2 + 1)
        sizes: list[float] = []
        for position in way:
            try:
                q = follow_branch(tree, q, {joint: float(position)}).q
            except RunError:
                found.append(DeadPoint(joint, float(position), True))
                break
            sizes.append(_grip(tree, q, row))
        found += [
            DeadPoint(joint, float(way[k]), False)
            for k in range(len(sizes))
            if sizes[k] < _NEAR * max(sizes) and sizes[k] == min(sizes[max(0, k - 1) : k + 2])
        ]
    return sorted({p.position: p for p in found}.values(), key=lambda p: p.position)


def _grip(tree: Tree, q: Array, row: int) -> float:
    """How well holding one joint holds the others: the smallest singular value that matters."""
    free = loop_freedoms(tree)
    free[row] = False
    sizes = np.linalg.svd(equations(tree, q)[1][:, free], compute_uv=False)
    return float(sizes[min(free.sum(), len(sizes)) - 1])
