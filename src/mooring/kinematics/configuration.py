"""From named joint positions to a full q in which couplings and closures hold."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from mooring.arguments import proven
from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.kinematics.loops.following import follow_branch
from mooring.model import Robot
from mooring.tree import Tree
from mooring.tree.arrays import FLOATING
from mooring.units import to_si


@proven
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
        positions = robot.posture(posture)
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
    # Zero is where the CAD has the machine, and where its loops are closed: coming from there leads
    # to the branch that the machine would come to.
    start = goal.copy()
    start[[tree.coordinate(joint) for joint in positions]] = 0.0
    return follow_branch(
        tree, start, {joint: goal[tree.coordinate(joint)] for joint in positions}, name
    ).q


@proven
def home_configuration(robot: Robot, tree: Tree | None = None) -> Array:
    """The neutral posture; joints whose limits leave zero out are at the nearest limit, (n,).

    Args:
        robot: whose joints.
        tree: `robot.tree()`, if it is at hand.

    Raises:
        RunError: a loop cannot be closed there.
    """
    tree = tree or robot.tree()
    bent: dict[str, float | str] = {}
    for name, joint in robot.joints.items():
        lower, upper = joint.limits.lower, joint.limits.upper
        if not joint.has_axis or name in robot.couplings or joint.endless:
            continue
        if lower is not None and lower > 0 and (upper is None or upper >= lower):
            bent[name] = lower
        elif upper is not None and upper < 0 and (lower is None or lower <= upper):
            bent[name] = upper
    return configuration(robot, bent, tree)


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
