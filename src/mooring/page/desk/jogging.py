"""Moving joints by hand: within limits, with followers and loops, and by pulling at a link."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from mooring.errors import ModelError, RunError
from mooring.geometry import Array
from mooring.kinematics import follow_branch, link_poses, solve_ik
from mooring.kinematics.loops.closing import loop_freedoms
from mooring.kinematics.on_links import place_on
from mooring.model import Robot
from mooring.model.definition.fields import dimension_of
from mooring.tree import Tree
from mooring.units import show

_SLACK = 1e-6
"""Beyond a limit by less than this is at the limit [rad or m]."""
_HALVINGS = 7
_STARTS = 20
_FARTHEST = {"rotation": 4 * np.pi, "translation": 2.0}
"""How far a joint in a loop goes at once, as the loop is followed all the way [rad or m]."""
SWING_SPEED = {"rotation": 0.6, "translation": 0.12}
"""Largest speed of a joint that is run to and fro [rad/s or m/s]."""


@dataclass(frozen=True, eq=False)
class Moved:
    """Where a robot was brought.

    Attributes:
        q: (n,).
        refused: why it went no farther; empty where it went all the way.
        joint: whose limit or loop that was.
    """

    q: Array
    refused: str = ""
    joint: str = ""


def as_place(values: ArrayLike) -> Array:
    """Three numbers, (3,).

    Raises:
        ModelError: they are none.
    """
    place = np.asarray(values, dtype=float)
    if place.shape != (3,):
        raise ModelError("a place is three numbers")
    return place


def jog(robot: Robot, tree: Tree, q: Array, joint: str, value: float) -> Moved:
    """Bring one joint to a position, or as near as limits and loops let it come.

    Args:
        robot, tree: whose joint.
        q: where it stands, (n,).
        joint: which; a follower moves its leader.
        value: [rad or m].

    Raises:
        ModelError: no moving joint has that name.
    """
    at = tree.coordinate(joint)
    dimension = dimension_of("position", robot.joints[joint].motion)
    low, high = travel(tree, joint)
    wanted = min(max(value, low), high)
    refused = ""
    if abs(wanted - value) > _SLACK:
        refused = f"{joint} ends at {show(wanted, dimension)}"
    moved = _towards(robot, tree, q, joint, at, wanted)
    return moved if moved.refused or not refused else Moved(moved.q, refused, joint)


def _towards(robot: Robot, tree: Tree, q: Array, joint: str, at: int, wanted: float) -> Moved:
    if not loop_freedoms(tree)[tree.freedom(joint)]:
        # Nothing moves with it, so nothing can stop it on the way.
        reached = q.copy()
        reached[at] = wanted
        return Moved(reached)
    motion = robot.joints[joint].motion
    most = _FARTHEST[motion]
    if abs(wanted - q[at]) > most and len(tree.loops.first):
        dimension = dimension_of("position", motion)
        words = (
            f"{joint} is in a loop, which is followed all the way: it goes {show(most, dimension)} "
            "at a time"
        )
        near = float(q[at]) + math.copysign(most, wanted - float(q[at]))
        moved = _towards(robot, tree, q, joint, at, near)
        return moved if moved.refused else Moved(moved.q, words, joint)
    found = _reach(robot, tree, q, joint, wanted)
    if not found.refused:
        return found
    # As far as it goes: what stops it lies somewhere between.
    best, low, high = q, 0.0, 1.0
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        tried = _reach(robot, tree, q, joint, q[at] + middle * (wanted - q[at]))
        if tried.refused:
            high = middle
        else:
            low, best = middle, tried.q
    return Moved(best, found.refused, found.joint)


def _reach(robot: Robot, tree: Tree, q: Array, joint: str, value: float) -> Moved:
    try:
        reached = follow_branch(tree, q, {joint: value}, f"{joint} there").q
    except RunError as error:
        return Moved(q, str(error), joint)
    beyond = _beyond(tree, reached) - np.maximum(_beyond(tree, q), 0.0)
    worst = int(np.argmax(beyond)) if len(beyond) else -1
    if worst >= 0 and beyond[worst] > _SLACK:
        name = tree.freedoms[worst]
        low, high = travel(tree, name)
        end = low if reached[tree.arrays.position[worst]] < low else high
        dimension = dimension_of("position", robot.joints[name].motion)
        text = f"{joint} goes no farther: {name} ends at {show(end, dimension)}"
        return Moved(reached, text, name)
    return Moved(reached)


def _beyond(tree: Tree, q: Array) -> Array:
    """How far each freedom is beyond its limits, (m,); negative within them."""
    positions = tree.arrays.position
    at = np.where(positions < 0, 0.0, q[positions])
    beyond = np.maximum(tree.joints.lower - at, at - tree.joints.upper)
    return np.where(positions < 0, -np.inf, beyond)


def pull(
    robot: Robot, tree: Tree, q: Array, link: str, point: ArrayLike, target: ArrayLike,
    *, turned: bool = False,
) -> Moved:  # fmt: skip
    """Bring a point of a link towards a place by inverse kinematics.

    Args:
        robot, tree: whose link.
        q: where it stands, (n,).
        link: which.
        point: in link coordinates, (3,) [m].
        target: in world coordinates, (3,) [m].
        turned: whether it stays turned as it is.

    Raises:
        ModelError: no link has that name, or nothing moves it.
    """
    goal = np.asarray(target, dtype=float)
    if turned:
        place = pose_of(tree, q, link)
        place[:3, 3] = goal
        goal = place
    joints = _movers(tree, link)
    found = solve_ik(robot, link, goal, at=point, near=q, starts=1, joints=joints, tree=tree)
    if found.reached:
        return Moved(found.q)
    ends = ", ".join(found.at_limits)
    why = f"; {ends} at the end of its travel" if ends else ""
    return Moved(found.q, f"out of reach by {show(found.distance, 'length', 2)}{why}")


def pose_of(tree: Tree, q: Array, name: str) -> Array:
    """Where a frame or link is in the world, (4, 4).

    Raises:
        ModelError: there is none of that name.
    """
    body, at = place_on(tree, name)
    return np.asarray(link_poses(tree, q)[body] @ at)


def reach(
    robot: Robot, tree: Tree, q: Array, name: str, target: Mapping[str, list[float]]
) -> Moved:
    """How a frame or link comes to a place by its joints, the nearest way.

    Args:
        robot, tree: whose frame or link.
        q: where it stands, (n,).
        name: which.
        target: xyz in the world [m], and rpy [rad] where the orientation matters.

    Raises:
        ModelError: nothing moves it.
    """
    joints = _movers(tree, name)
    found = solve_ik(
        robot, name, target, near=q, nearest=True, starts=_STARTS, joints=joints, tree=tree
    )
    return Moved(found.q, "" if found.reached else str(found))


def _movers(tree: Tree, name: str) -> list[str] | None:
    """The floating base, for what nothing else moves; None for the joints that move it."""
    body, _ = place_on(tree, name)
    while body > 0:
        if tree.arrays.freedom[body] >= 0:
            return None
        body = int(tree.arrays.parent[body])
    return ["base"] if tree.arrays.freedom[0] >= 0 else None


def travel(tree: Tree, joint: str) -> tuple[float, float]:
    """The ends of a joint's travel, infinite where there are none."""
    freedom = tree.freedom(joint)
    return float(tree.joints.lower[freedom]), float(tree.joints.upper[freedom])


@dataclass
class Swing:
    """A joint that is run to and fro through its travel, slowly.

    Attributes:
        joint: which.
        low, high: between where [rad or m].
        way: +1 or -1.
        speed: [rad/s or m/s].
        blocked: whether the last step was refused.
    """

    joint: str
    low: float
    high: float
    speed: float
    way: int = 1
    blocked: bool = False

    @staticmethod
    def of(robot: Robot, tree: Tree, joint: str) -> Swing:
        """Through the whole travel; a joint without ends makes one turn, or a tenth of a metre."""
        low, high = travel(tree, joint)
        motion = robot.joints[joint].motion
        free = np.pi if motion == "rotation" else 0.1
        allowed = float(tree.joints.velocity[tree.freedom(joint)])
        low, high = max(low, -free) if low == -np.inf else low, free if high == np.inf else high
        return Swing(joint, low, high, min(SWING_SPEED[motion], allowed))

    def stopped(self, position: float, asked: float) -> bool:
        """Turn round where another's limit stops it; whether it can go neither way."""
        stuck = self.blocked
        self.way, self.blocked = (1 if asked < position else -1), True
        return stuck

    def next(self, position: float, seconds: float) -> float:
        """Where the joint is to be a moment later; it turns round at the ends."""
        there = position + self.way * self.speed * seconds
        if there >= self.high or there <= self.low:
            self.way = -1 if there >= self.high else 1
        return min(max(there, self.low), self.high)
