"""From a robot to the arrays that steppers work on."""

from __future__ import annotations

import numpy as np

from mooring.errors import ModelError, UnsoundRobotError
from mooring.geometry import Array
from mooring.model import Robot
from mooring.simulation.contact.arrays import ContactArrays
from mooring.simulation.stepping.arrays import (
    BY_EFFORT,
    BY_MOTION,
    BY_POSITION,
    BY_VELOCITY,
    Bonds,
    Columns,
    Commands,
    MotorArrays,
    Readings,
    SensorArrays,
    State,
    WatchArrays,
)
from mooring.tree import Tree

_MODES = {
    "position": BY_POSITION, "velocity": BY_VELOCITY, "effort": BY_EFFORT, "motion": BY_MOTION,
}  # fmt: skip


def motor_arrays(robot: Robot, tree: Tree, powered: bool) -> MotorArrays:
    """The motors in the order of the document; none where they are off."""
    motors = list(robot.motors.values()) if powered else []
    freedoms = np.array([tree.freedom(m.joint) for m in motors], dtype=np.int64)
    return MotorArrays(
        freedom=freedoms,
        mode=np.array([_MODES[m.mode] for m in motors], dtype=np.int64),
        p=np.array([m.p or 0.0 for m in motors], dtype=float),
        i=np.array([m.i or 0.0 for m in motors], dtype=float),
        d=np.array([m.d or 0.0 for m in motors], dtype=float),
        effort=np.ascontiguousarray(tree.joints.effort[freedoms]),
        speed=np.ascontiguousarray(tree.joints.velocity[freedoms]),
        weightless=np.array([m.feed_forward == "gravity" for m in motors], dtype=np.bool_),
        trips=np.array([m.at_limit == "trip" for m in motors], dtype=np.bool_),
    )


def no_commands(tree: Tree, motors: int) -> Commands:
    return Commands(
        np.zeros(motors, dtype=np.bool_), np.zeros(motors), np.zeros(motors), np.zeros(motors),
        np.zeros((len(tree.links), 6)),
    )  # fmt: skip


def no_bonds() -> Bonds:
    none = np.zeros(0, dtype=np.int64)
    return Bonds(none, none.copy(), np.zeros(0, dtype=np.bool_), np.zeros((0, 4, 4)))


def new_state(q: Array, v: Array, motors: int) -> State:
    return State(
        q.copy(), v.copy(), np.zeros(len(v)), np.zeros(motors, dtype=np.int64), np.zeros(motors),
        np.zeros(motors), np.zeros(3 * len(v)), np.zeros(5),
    )  # fmt: skip


def new_watch(freedoms: int, motors: int, contact: ContactArrays) -> WatchArrays:
    shapes, pairs = len(contact.shapes.body), len(contact.pairs)
    saturated = np.zeros((motors, 3))
    saturated[:, 0] = np.inf
    stop = np.full((freedoms, 3), np.inf)
    stop[:, 2] = 0.0
    overlap = np.zeros((pairs + shapes, 4))
    overlap[:, 0] = np.inf
    return WatchArrays(
        np.full(motors, np.inf), saturated, stop, overlap, np.zeros(shapes), np.zeros(2),
        np.zeros(3), np.zeros(3),
    )  # fmt: skip


def new_columns(tree: Tree, motors: int, rows: int, contacts: int) -> Columns:
    return Columns(
        time=np.zeros(rows),
        position=np.zeros((rows, len(tree.coordinates))),
        velocity=np.zeros((rows, len(tree.freedoms))),
        target=np.zeros((rows, motors, 2)),
        effort=np.zeros((rows, motors)),
        integral=np.zeros((rows, motors)),
        energy=np.zeros((rows, 7)),
        gap=np.zeros(rows),
        touching=np.zeros((rows * contacts, 3), dtype=np.int64),
        force=np.zeros((rows * contacts, 7)),
        contacts=np.zeros(1, dtype=np.int64),
    )


def new_readings(sensors: SensorArrays, steps: int) -> Readings:
    rows = sum(int(steps * rate) + 2 for rate in sensors.rate)
    return Readings(
        np.zeros((rows, sensors.width.max(initial=1))),
        np.zeros(rows, dtype=np.int64),
        np.zeros(rows),
        np.zeros(1, dtype=np.int64),
    )


def refuse_massless(tree: Tree) -> None:
    """A moving link without mass has no answer to any force.

    Raises:
        UnsoundRobotError: there is such a link.
    """
    parents = tree.arrays.parent
    carried = tree.arrays.mass.copy()
    for body in range(len(parents) - 1, 0, -1):
        carried[parents[body]] += carried[body]
    for body in range(len(parents)):
        if tree.arrays.freedom[body] >= 0 and carried[body] <= 0:
            raise UnsoundRobotError(
                f"link {tree.links[body]!r} moves, and neither it nor anything on it has mass; "
                "give it a material or a mass"
            )


def refuse_rough(robot: Robot) -> None:
    """The accurate stepper is for smooth motion.

    Raises:
        ModelError: a joint has dry friction.
    """
    rough = [name for name, joint in robot.joints.items() if joint.friction > 0]
    if rough:
        raise ModelError(
            f"the accurate stepper has no dry friction ({', '.join(rough)}); use stepper='robust'"
        )
