"""What it takes to hold a robot still against gravity, at the worst posture."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from mooring.dynamics import STANDARD_GRAVITY, inverse_dynamics, spring_efforts
from mooring.errors import RunError
from mooring.geometry import Array
from mooring.kinematics import close_loops, loop_freedoms
from mooring.kinematics.mechanism.drivers import transmission
from mooring.model import Robot
from mooring.model.definition.fields import Motion
from mooring.tree import Tree

_ROUNDS = 2
_TRIES = 15


@dataclass(frozen=True, eq=False)
class HoldingEffort:
    """The largest effort that holding still takes of a joint.

    Attributes:
        joint: its name.
        motion: whether it turns or slides.
        effort: at the worst posture that was found [N m or N]; its sign is that of the drive.
        limit: what its drive can do; inf where nobody says.
        driven: whether a motor drives it.
        q: the worst posture, (n,).
    """

    joint: str
    motion: Motion
    effort: float
    limit: float
    driven: bool
    q: Array

    @property
    def share(self) -> float:
        """Of what the drive can do."""
        return abs(self.effort) / self.limit if self.limit > 0 else np.inf

    @property
    def too_weak(self) -> bool:
        """Whether it cannot be held there within its effort limit, by a motor or whatever."""
        return self.share > 1


def holding_efforts(
    robot: Robot, tree: Tree, driven: list[str], positions: Array, gravity: ArrayLike
) -> list[HoldingEffort]:
    """The worst efforts at given positions, then searched further from there.

    Args:
        robot, tree: the robot, and its tree.
        driven: joints that decide where all others are; each is held by its own drive.
        positions: to begin with, (b, n).
        gravity: (3,) [m/s^2].
    """
    motors = {motor.joint for motor in robot.motors.values()}
    efforts = holding_now(tree, driven, positions, gravity)
    found = []
    for k, joint in enumerate(driven):
        row = tree.freedom(joint)
        best = int(np.argmax(np.abs(efforts[:, k])))
        q, effort = _searched(tree, driven, k, positions[best], efforts[best, k], gravity)
        limit = float(tree.joints.effort[row])
        found.append(HoldingEffort(joint, tree.motions[row], effort, limit, joint in motors, q))
    return found


def holding_now(
    tree: Tree,
    driven: list[str],
    positions: Array,
    gravity: ArrayLike = (0.0, 0.0, -STANDARD_GRAVITY),
) -> Array:
    """What each driven joint has to do to hold the machine still, (b, d) [N m or N].

    The whole weight, less what springs hold, felt through loops and couplings.

    Args:
        tree: the robot's.
        driven: joints that decide where all others are.
        positions: (b, n).
        gravity: (3,) [m/s^2].
    """
    still = np.zeros(len(tree.freedoms))
    weight = inverse_dynamics(tree, positions, still, still, gravity)
    weight = weight - spring_efforts(tree, positions)
    if not loop_freedoms(tree).any():
        return np.asarray(weight[:, [tree.freedom(name) for name in driven]])
    return np.array(
        [transmission(tree, q, driven).T @ w for q, w in zip(positions, weight, strict=True)]
    )


def _searched(
    tree: Tree, driven: list[str], k: int, q: Array, effort: float, gravity: ArrayLike
) -> tuple[Array, float]:
    """A worse posture, found by moving one joint after the other through its range."""
    for _ in range(_ROUNDS):
        before = effort
        for joint in driven:
            row, at = tree.freedom(joint), tree.coordinate(joint)
            low = max(float(tree.joints.lower[row]), -np.pi)
            high = min(float(tree.joints.upper[row]), np.pi)
            tries = []
            for value in np.linspace(low, high, _TRIES):
                other = q.copy()
                other[at] = value
                try:
                    tries.append(close_loops(tree, other, driven))
                except RunError:
                    continue
            if not tries:
                continue
            found = holding_now(tree, driven, np.array(tries), gravity)[:, k]
            worst = int(np.argmax(np.abs(found)))
            if abs(found[worst]) > abs(effort):
                q, effort = tries[worst], float(found[worst])
        if abs(effort) <= abs(before) * 1.001:
            break
    return q, float(effort)
