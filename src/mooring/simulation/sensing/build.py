"""From a robot's sensors to what the stepper measures for them."""

from __future__ import annotations

import numpy as np

from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.model import Robot
from mooring.model.sensor import (
    ContactSensor,
    Encoder,
    ForceTorque,
    Imu,
    JointTorque,
    Sensor,
)
from mooring.simulation.stepping.arrays import (
    SEES_CONTACT,
    SEES_FORCE,
    SEES_MOTION,
    SEES_POSITION,
    SEES_STATE,
    SEES_TORQUE,
    SensorArrays,
)
from mooring.tree import Tree

_WIDTHS = {
    SEES_MOTION: 10, SEES_POSITION: 1, SEES_TORQUE: 1, SEES_FORCE: 6, SEES_CONTACT: 4,
}  # fmt: skip


def sensor_arrays(robot: Robot, tree: Tree, step: float) -> SensorArrays:
    """What is to be measured, and how often.

    Raises:
        ModelError: a sensor is faster than the steps.
    """
    sensors = list(robot.sensors.values())
    kinds, bodies, freedoms, places = [], [], [], []
    for sensor in sensors:
        body, freedom, place = 0, 0, np.eye(4)
        if isinstance(sensor, Imu):
            kind = SEES_MOTION
            body, place = place_of(tree, sensor)
        elif isinstance(sensor, Encoder | JointTorque):
            kind = SEES_POSITION if isinstance(sensor, Encoder) else SEES_TORQUE
            freedom = tree.freedom(sensor.joint)
        elif isinstance(sensor, ForceTorque):
            kind, body = SEES_FORCE, tree.link(robot.joints[sensor.joint].child)
        elif isinstance(sensor, ContactSensor):
            kind, body = SEES_CONTACT, tree.link(sensor.link)
        else:
            # Scanners and cameras look at the scene as it stood then.
            kind = SEES_STATE
        kinds.append(kind)
        bodies.append(body)
        freedoms.append(freedom)
        places.append(place)
    matrices = np.array(places, dtype=float).reshape(-1, 4, 4)
    return SensorArrays(
        kind=np.array(kinds, dtype=np.int64),
        body=np.array(bodies, dtype=np.int64),
        freedom=np.array(freedoms, dtype=np.int64),
        place=np.ascontiguousarray(matrices[:, :3, 3]),
        turn=np.ascontiguousarray(matrices[:, :3, :3]),
        rate=np.array([_per_step(sensor, step) for sensor in sensors], dtype=float),
        width=np.array([_WIDTHS.get(k, len(tree.coordinates)) for k in kinds], dtype=np.int64),
    )


def place_of(tree: Tree, sensor: Sensor) -> tuple[int, Array]:
    """The body that a sensor sits on, and where, (4, 4)."""
    frame = getattr(sensor, "frame", None)
    if frame is not None:
        return tree.frames[frame]
    return tree.link(getattr(sensor, "link", "")), np.eye(4)


def _per_step(sensor: Sensor, step: float) -> float:
    if sensor.rate * step > 1 + 1e-6:
        raise ModelError(
            f"sensor {sensor.name!r} measures {sensor.rate:g} times a second; steps of {step:g} s "
            f"are too long for it, take {1 / sensor.rate:g} s or less"
        )
    return min(1.0, sensor.rate * step)
