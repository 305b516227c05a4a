"""From a robot's sensors to what the core measures for them, and from that to measurements."""

from __future__ import annotations

import zlib

import numpy as np

from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.model import Robot
from mooring.model.sensors import Sensor, Surroundings
from mooring.simulation.stepping.arrays import SensorArrays
from mooring.tree import Tree


def sensor_arrays(robot: Robot, tree: Tree, step: float) -> SensorArrays:
    """What is to be measured, and how often.

    Raises:
        ModelError: a sensor is faster than the steps.
    """
    sensors = list(robot.sensors.values())
    mounts = [sensor.mount(robot, tree) for sensor in sensors]
    places = np.array([mount.place for mount in mounts], dtype=float).reshape(-1, 4, 4)
    return SensorArrays(
        probe=[sensor.probe for sensor in sensors],
        body=np.array([mount.body for mount in mounts], dtype=np.int64),
        freedom=np.array([mount.freedom for mount in mounts], dtype=np.int64),
        place=np.ascontiguousarray(places[:, :3, 3]),
        turn=np.ascontiguousarray(places[:, :3, :3]),
        rate=np.array([_per_step(sensor, step) for sensor in sensors], dtype=float),
    )


def generator_for(sensor: Sensor, seed: int) -> np.random.Generator:
    """A sensor's own source of noise: other sensors have no influence on it."""
    return np.random.default_rng([seed, zlib.crc32(sensor.name.encode())])


def measured(
    sensor: Sensor,
    probed: Array,
    tree: Tree,
    random: np.random.Generator,
    surroundings: Surroundings | None = None,
) -> Array:
    """Measurements, (k, columns), with the sensor's faults.

    Args:
        sensor: what measures.
        probed: what the core measured for it, (k, width).
        tree: of the robot.
        random: from `generator_for`.
        surroundings: for sensors that look at the scene.
    """
    if surroundings is not None and sensor.looks:
        probed = sensor.look(surroundings, probed)
    joint = sensor.joint_name
    motion = tree.motions[tree.freedom(joint)] if joint in tree.freedoms else "rotation"
    found = np.asarray(sensor.faults(probed, random, motion))
    if sensor.view is None and sensor.fan is None:
        wanted = len(sensor.columns({}))
        if found.shape != (len(probed), wanted):
            raise ModelError(
                f"sensor {sensor.name!r} gives measurements of shape {found.shape}; its columns "
                f"need {(len(probed), wanted)}"
            )
    return found


def _per_step(sensor: Sensor, step: float) -> float:
    if sensor.rate * step > 1 + 1e-6:
        raise ModelError(
            f"sensor {sensor.name!r} measures {sensor.rate:g} times a second; steps of {step:g} s "
            f"are too long for it, take {1 / sensor.rate:g} s or less"
        )
    return min(1.0, sensor.rate * step)
