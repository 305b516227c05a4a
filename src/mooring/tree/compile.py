"""The one place where a robot becomes arrays."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from mooring.errors import UnsoundRobotError
from mooring.geometry import Array, frame_along, inverse, placement
from mooring.model.joint import Joint, motion_of
from mooring.model.structure import depth_first, faults, roots
from mooring.tree.arrays import (
    FIXED,
    PRISMATIC,
    REVOLUTE,
    JointArrays,
    LoopArrays,
    TreeArrays,
)
from mooring.tree.tree import Tree

if TYPE_CHECKING:
    from mooring.model.robot import Robot

_KINDS = {
    "fixed": FIXED,
    "revolute": REVOLUTE,
    "continuous": REVOLUTE,
    "prismatic": PRISMATIC,
}

# Relative motions held by each kind of closure: turning about x, y, z; moving along x, y, z.
_HELD = {
    "ball": (False, False, False, True, True, True),
    "hinge": (True, True, False, True, True, True),
    "slide": (True, True, True, True, True, False),
    "weld": (True, True, True, True, True, True),
}


def compile_tree(robot: Robot) -> Tree:
    """Compile a robot to arrays.

    Raises:
        UnsoundRobotError: the robot is no tree; the message lists why.
    """
    found = faults(robot)
    if found:
        lines = [f"  {fault.message}; {fault.remedy}" for fault in found]
        raise UnsoundRobotError("\n".join([f"{robot.name} is no kinematic tree:", *lines]))
    joints = depth_first(robot)
    links = [roots(robot)[0], *(joint.child for joint in joints)]
    number = {name: k for k, name in enumerate(links)}
    moving = [joint for joint in joints if joint.moves]
    frames = _neutral_frames(joints, number)
    arrays, without_mass = _tree_arrays(robot, joints, links, number, frames)
    return Tree(
        links=tuple(links),
        coordinates=tuple(joint.name for joint in moving),
        motions=tuple(motion_of(joint.type) for joint in moving),
        arrays=arrays,
        loops=_loop_arrays(robot, moving, number, frames),
        joints=_joint_arrays(moving),
        neutral_frames=frames,
        frames={
            name: (number[frame.link], frame.at.in_link(frames[number[frame.link]]))
            for name, frame in robot.frames.items()
            if frame.link in number
        },
        without_mass=tuple(without_mass),
    )


def _neutral_frames(joints: Sequence[Joint], number: dict[str, int]) -> Array:
    """Each link's frame in CAD coordinates; the root's frame is the CAD's."""
    frames = np.tile(np.eye(4), (len(joints) + 1, 1, 1))
    for joint in joints:
        parent = frames[number[joint.parent]]
        frames[number[joint.child]] = parent @ joint.at.in_link(parent)
    return frames


def _tree_arrays(
    robot: Robot,
    joints: Sequence[Joint],
    links: Sequence[str],
    number: dict[str, int],
    frames: Array,
) -> tuple[TreeArrays, list[str]]:
    count = len(links)
    arrays = TreeArrays(
        parent=np.full(count, -1, dtype=np.int64),
        kind=np.zeros(count, dtype=np.int64),
        coordinate=np.full(count, -1, dtype=np.int64),
        rotation=np.tile(np.eye(3), (count, 1, 1)),
        translation=np.zeros((count, 3)),
        axis=np.tile(np.array([0.0, 0.0, 1.0]), (count, 1)),
        mass=np.zeros(count),
        centre=np.zeros((count, 3)),
        tensor=np.zeros((count, 3, 3)),
    )
    coordinate = 0
    for row, joint in enumerate(joints, start=1):
        parent = number[joint.parent]
        place = joint.at.in_link(frames[parent])
        arrays.parent[row] = parent
        arrays.kind[row] = _KINDS[joint.type]
        arrays.rotation[row] = place[:3, :3]
        arrays.translation[row] = place[:3, 3]
        arrays.axis[row] = joint.axis
        if joint.moves:
            arrays.coordinate[row] = coordinate
            coordinate += 1
    without_mass = []
    for row, name in enumerate(links):
        inertia = robot.inertia(name, frames[row])
        if inertia is None:
            without_mass.append(name)
            continue
        arrays.mass[row] = inertia.mass
        arrays.centre[row] = inertia.centre
        arrays.tensor[row] = inertia.tensor
    return arrays, without_mass


def _loop_arrays(
    robot: Robot, moving: Sequence[Joint], number: dict[str, int], frames: Array
) -> LoopArrays:
    coordinate = {joint.name: k for k, joint in enumerate(moving)}
    couplings = list(robot.couplings.values())
    closures = list(robot.closures.values())
    on_first, on_second = [], []
    for closure in closures:
        first, second = (frames[number[name]] for name in closure.between)
        along = placement(rotation=frame_along(closure.axis))
        on_first.append(closure.at.in_link(first) @ along)
        on_second.append(inverse(second) @ first @ on_first[-1])
    return LoopArrays(
        follower=np.array([coordinate[c.joint] for c in couplings], dtype=np.int64),
        leader=np.array([coordinate[c.follows] for c in couplings], dtype=np.int64),
        ratio=np.array([c.ratio for c in couplings], dtype=float),
        offset=np.array([c.offset for c in couplings], dtype=float),
        first=np.array([number[c.between[0]] for c in closures], dtype=np.int64),
        second=np.array([number[c.between[1]] for c in closures], dtype=np.int64),
        frame_on_first=np.array(on_first, dtype=float).reshape(-1, 4, 4),
        frame_on_second=np.array(on_second, dtype=float).reshape(-1, 4, 4),
        held=np.array([_HELD[c.kind] for c in closures], dtype=np.bool_).reshape(-1, 6),
    )


def _joint_arrays(moving: Sequence[Joint]) -> JointArrays:
    def column(values: list[float | None], missing: float) -> Array:
        return np.array([missing if v is None else v for v in values], dtype=float)

    limits = [joint.limits for joint in moving]
    return JointArrays(
        lower=column([x.lower for x in limits], -np.inf),
        upper=column([x.upper for x in limits], np.inf),
        velocity=column([x.velocity for x in limits], np.inf),
        effort=column([x.effort for x in limits], np.inf),
        damping=column([joint.damping for joint in moving], 0.0),
        friction=column([joint.friction for joint in moving], 0.0),
    )
