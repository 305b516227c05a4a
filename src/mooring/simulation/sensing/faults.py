"""From what is to a measurement: bias, noise, resolution."""

from __future__ import annotations

import zlib
from collections.abc import Mapping

import numpy as np

from mooring.geometry import Array
from mooring.model.sensor import (
    ContactSensor,
    Encoder,
    ForceTorque,
    Imu,
    JointTorque,
    RangeScanner,
    Sensor,
)

_XYZ = ("x", "y", "z")


def generator_for(sensor: Sensor, seed: int) -> np.random.Generator:
    """A sensor's own source of noise: what other sensors do has no influence on it."""
    return np.random.default_rng([seed, zlib.crc32(sensor.name.encode())])


def columns_of(sensor: Sensor, joints: Mapping[str, str] | None = None) -> dict[str, str]:
    """What a measurement holds, by name, each with its unit.

    Args:
        sensor: what measures.
        joints: the unit of each moving joint's position, rad or m; where it is not given, that of
            what is measured at a joint is left out.
    """
    joints = joints or {}
    if isinstance(sensor, Imu):
        turn = ["qx", "qy", "qz", "qw"] if sensor.orientation else []
        return (
            {f"force.{k}": "m/s^2" for k in _XYZ}
            | {f"rate.{k}": "rad/s" for k in _XYZ}
            | dict.fromkeys(turn, "1")
        )
    if isinstance(sensor, Encoder):
        return {"position": joints.get(sensor.joint, "")}
    if isinstance(sensor, JointTorque):
        return {"effort": {"rad": "N m", "m": "N"}.get(joints.get(sensor.joint, ""), "")}
    if isinstance(sensor, ForceTorque):
        return {f"moment.{k}": "N m" for k in _XYZ} | {f"force.{k}": "N" for k in _XYZ}
    if isinstance(sensor, ContactSensor):
        return {f"force.{k}": "N" for k in _XYZ} | {"pressed": "1"}
    if isinstance(sensor, RangeScanner):
        rays = range(sensor.rays)
        return {f"{layer}.{ray}": "m" for layer in range(sensor.layers) for ray in rays}
    return {}


def worsened(
    sensor: Sensor, exact: Array, random: np.random.Generator, turns: bool = True
) -> Array:
    """Measurements, (k, columns), of exact values (k, n).

    Args:
        sensor: what measures.
        exact: as the stepper measured them.
        random: from `generator_for`.
        turns: of an encoder, whether its joint turns; counts are of a turn or of a metre.
    """
    count = len(exact)
    if isinstance(sensor, Imu):
        force_noise, rate_noise = (
            density * np.sqrt(sensor.rate) for density in (sensor.force_noise, sensor.rate_noise)
        )
        noise = random.standard_normal((count, 6))
        noise[:, :3] *= force_noise
        noise[:, 3:] *= rate_noise
        measured = exact[:, :6] + [*sensor.force_bias, *sensor.rate_bias] + noise
        if sensor.orientation:
            measured = np.column_stack([measured, exact[:, 6:10]])
        return np.asarray(measured)
    if isinstance(sensor, Encoder):
        if sensor.counts is None:
            return exact[:, :1]
        size = (2 * np.pi if turns else 1.0) / sensor.counts
        return np.asarray(np.floor(exact[:, :1] / size + 1e-9) * size)
    if isinstance(sensor, JointTorque):
        return np.asarray(exact[:, :1] + sensor.noise * random.standard_normal((count, 1)))
    if isinstance(sensor, ForceTorque):
        noise = random.standard_normal((count, 6))
        noise[:, :3] *= sensor.moment_noise
        noise[:, 3:] *= sensor.force_noise
        return np.asarray(exact[:, :6] + noise)
    if isinstance(sensor, RangeScanner):
        return np.asarray(exact + sensor.noise * random.standard_normal(exact.shape))
    return exact[:, : len(columns_of(sensor))]
