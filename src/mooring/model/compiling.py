"""The one place where a robot becomes arrays."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mooring.errors import UnsoundRobotError
from mooring.geometry import Array, frame_along, inverse, placement
from mooring.model.closure import HELD
from mooring.model.joint import Joint
from mooring.model.structure import depth_first, faults, roots
from mooring.tree.arrays import (
    FLOATING,
    JointArrays,
    LoopArrays,
    Motion,
    SpringArrays,
    TreeArrays,
)
from mooring.tree.tree import Tree

if TYPE_CHECKING:
    from mooring.model.robot import Robot

BASE = "base"
"""What the joint of a floating base is called."""
PLACES = ("x", "y", "z", "qx", "qy", "qz", "qw")
SPEEDS = ("wx", "wy", "wz", "vx", "vy", "vz")


@dataclass(frozen=True)
class _Freedom:
    """One entry of v; what floats has none of its own joints' properties."""

    name: str
    motion: Motion
    position: int
    joint: Joint | None


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
    coordinates, freedoms = _order(robot, joints)
    frames = _neutral_frames(joints, number)
    arrays, without_mass = _tree_arrays(robot, joints, links, number, frames, freedoms)
    places = {
        name: (number[frame.link], frame.at.in_link(frames[number[frame.link]]))
        for name, frame in robot.frames.items()
        if frame.link in number
    }
    return Tree(
        links=tuple(links),
        coordinates=tuple(coordinates),
        freedoms=tuple(freedom.name for freedom in freedoms),
        motions=tuple(freedom.motion for freedom in freedoms),
        arrays=arrays,
        loops=_loop_arrays(robot, freedoms, number, frames),
        loop_names=(
            *(f"the coupling of {joint}" for joint in robot.couplings),
            *(f"the closure {name}" for name in robot.closures),
        ),
        joints=_joint_arrays(robot, freedoms),
        springs=_spring_arrays(robot, places, frames),
        neutral_frames=frames,
        frames=places,
        without_mass=tuple(without_mass),
    )


def _order(robot: Robot, joints: Sequence[Joint]) -> tuple[list[str], list[_Freedom]]:
    """The coordinates and the freedoms, in the order of q and of v."""
    coordinates: list[str] = []
    freedoms: list[_Freedom] = []
    floating = [] if robot.base == "fixed" else [BASE]
    for joint in (*floating, *joints):
        if isinstance(joint, Joint) and joint.has_axis:
            freedoms.append(_Freedom(joint.name, joint.motion, len(coordinates), joint))
            coordinates.append(joint.name)
        elif not isinstance(joint, Joint) or joint.kind.floats:
            name = joint.name if isinstance(joint, Joint) else joint
            coordinates += [f"{name}.{end}" for end in PLACES]
            turns: tuple[Motion, Motion] = ("rotation", "translation")
            freedoms += [
                _Freedom(f"{name}.{end}", turns[k // 3], -1, None) for k, end in enumerate(SPEEDS)
            ]
    return coordinates, freedoms


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
    freedoms: Sequence[_Freedom],
) -> tuple[TreeArrays, list[str]]:
    count = len(links)
    arrays = TreeArrays(
        parent=np.full(count, -1, dtype=np.int64),
        kind=np.zeros(count, dtype=np.int64),
        coordinate=np.full(count, -1, dtype=np.int64),
        freedom=np.full(count, -1, dtype=np.int64),
        position=np.array([freedom.position for freedom in freedoms], dtype=np.int64),
        before=np.full(len(freedoms), -1, dtype=np.int64),
        tip=np.full(count, -1, dtype=np.int64),
        rotor=np.array([_rotor(robot, freedom.joint) for freedom in freedoms], dtype=float),
        rotation=np.tile(np.eye(3), (count, 1, 1)),
        translation=np.zeros((count, 3)),
        axis=np.tile(np.array([0.0, 0.0, 1.0]), (count, 1)),
        mass=np.zeros(count),
        centre=np.zeros((count, 3)),
        tensor=np.zeros((count, 3, 3)),
    )
    coordinate = freedom = 0
    if robot.base == "floating":
        arrays.kind[0], arrays.coordinate[0], arrays.freedom[0] = FLOATING, 0, 0
        coordinate, freedom = len(PLACES), len(SPEEDS)
    for row, joint in enumerate(joints, start=1):
        parent = number[joint.parent]
        # What floats is told in its parent's frame, the world's for most: `at` is where it begins.
        place = np.eye(4) if joint.kind.floats else joint.at.in_link(frames[parent])
        arrays.parent[row] = parent
        arrays.kind[row] = joint.kind.code
        arrays.rotation[row] = place[:3, :3]
        arrays.translation[row] = place[:3, 3]
        arrays.axis[row] = joint.axis
        if joint.moves:
            arrays.coordinate[row], arrays.freedom[row] = coordinate, freedom
            coordinate += joint.kind.positions
            freedom += joint.kind.freedoms
    _chain_freedoms(arrays)
    without_mass = []
    for row, name in enumerate(links):
        inertia = robot.links[name].mass_properties(frames[row], robot.materials)
        if inertia is None:
            without_mass.append(name)
            continue
        arrays.mass[row] = inertia.mass
        arrays.centre[row] = inertia.centre
        arrays.tensor[row] = inertia.tensor
    return arrays, without_mass


def _chain_freedoms(arrays: TreeArrays) -> None:
    """Fill in `before` and `tip`."""
    for row, parent in enumerate(arrays.parent):
        last = arrays.tip[parent] if parent >= 0 else -1
        first = arrays.freedom[row]
        for freedom in range(first, first + (6 if arrays.kind[row] == FLOATING else 1)):
            if first >= 0:
                arrays.before[freedom] = last
                last = freedom
        arrays.tip[row] = last


def _rotor(robot: Robot, joint: Joint | None) -> float:
    """What a joint's drive adds to the inertia that it moves."""
    if joint is None:
        return 0.0
    motors = [motor for motor in robot.motors.values() if motor.joint == joint.name]
    return joint.rotor_inertia + sum(m.rotor_inertia * m.gear_ratio**2 for m in motors)


def _loop_arrays(
    robot: Robot, freedoms: Sequence[_Freedom], number: dict[str, int], frames: Array
) -> LoopArrays:
    freedom = {one.name: k for k, one in enumerate(freedoms)}
    couplings = list(robot.couplings.values())
    closures = list(robot.closures.values())
    on_first, on_second = [], []
    for closure in closures:
        first, second = (frames[number[name]] for name in closure.between)
        along = placement(rotation=frame_along(closure.axis))
        on_first.append(closure.at.in_link(first) @ along)
        on_second.append(inverse(second) @ first @ on_first[-1])
    return LoopArrays(
        follower=np.array([freedom[c.joint] for c in couplings], dtype=np.int64),
        coupling=np.array([k for k, c in enumerate(couplings) for _ in c.ratios], dtype=np.int64),
        leader=np.array([freedom[name] for c in couplings for name in c.ratios], dtype=np.int64),
        ratio=np.array([r for c in couplings for r in c.ratios.values()], dtype=float),
        offset=np.array([c.offset for c in couplings], dtype=float),
        first=np.array([number[c.between[0]] for c in closures], dtype=np.int64),
        second=np.array([number[c.between[1]] for c in closures], dtype=np.int64),
        frame_on_first=np.array(on_first, dtype=float).reshape(-1, 4, 4),
        frame_on_second=np.array(on_second, dtype=float).reshape(-1, 4, 4),
        held=np.array([HELD[c.kind] for c in closures], dtype=np.bool_).reshape(-1, 6),
    )


def _spring_arrays(
    robot: Robot, places: Mapping[str, tuple[int, Array]], frames: Array
) -> SpringArrays:
    springs = list(robot.springs.values())
    first = [places[spring.between[0]] for spring in springs]
    second = [places[spring.between[1]] for spring in springs]
    lengths = []
    for spring, (a, on_a), (b, on_b) in zip(springs, first, second, strict=True):
        way = (frames[b] @ on_b - frames[a] @ on_a)[:3, 3]
        given = spring.rest_length
        lengths.append(float(np.linalg.norm(way)) if given is None else given)
    return SpringArrays(
        first=np.array([body for body, _ in first], dtype=np.int64),
        second=np.array([body for body, _ in second], dtype=np.int64),
        on_first=np.array([place[:3, 3] for _, place in first], dtype=float).reshape(-1, 3),
        on_second=np.array([place[:3, 3] for _, place in second], dtype=float).reshape(-1, 3),
        stiffness=np.array([spring.stiffness for spring in springs], dtype=float),
        damping=np.array([spring.damping for spring in springs], dtype=float),
        length=np.array(lengths, dtype=float),
    )


def _joint_arrays(robot: Robot, freedoms: Sequence[_Freedom]) -> JointArrays:
    def limit(key: str, missing: float) -> Array:
        said = [None if f.joint is None else getattr(f.joint.limits, key) for f in freedoms]
        return np.array([missing if v is None else v for v in said], dtype=float)

    def column(key: str) -> Array:
        said = [0.0 if f.joint is None else getattr(f.joint, key) for f in freedoms]
        return np.array(said, dtype=float)

    effort = limit("effort", np.inf)
    names = [freedom.name for freedom in freedoms]
    for motor in robot.motors.values():
        if motor.joint in names:
            k = names.index(motor.joint)
            effort[k] = min(effort[k], motor.largest_torque * motor.gear_ratio)
    return JointArrays(
        lower=limit("lower", -np.inf),
        upper=limit("upper", np.inf),
        velocity=limit("velocity", np.inf),
        effort=effort,
        acceleration=limit("acceleration", np.inf),
        damping=column("damping"),
        friction=column("friction"),
        stiffness=column("stiffness"),
        rest=column("rest"),
    )
