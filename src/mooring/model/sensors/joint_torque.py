"""Torque sensors of joints."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from mooring.geometry import Array
from mooring.model.definition.fields import Motion
from mooring.model.sensors.sensor import OnJoint, noisy


class JointTorque(OnJoint):
    """Measures the torque (or force) that a joint passes on along its axis, behind its gear.

    Attributes:
        kind: joint_torque.
        joint: which one.
        noise: standard deviation [N m or N].
    """

    probe: ClassVar[str] = "torque"

    kind: Literal["joint_torque"]
    noise: float = Field(default=0.0, ge=0, allow_inf_nan=False)

    def columns(self, units: Mapping[str, str]) -> dict[str, str]:
        return {"effort": {"rad": "N m", "m": "N"}.get(units.get(self.joint, ""), "")}

    def faults(self, exact: Array, random: np.random.Generator, motion: Motion) -> Array:
        return noisy(exact[:, :1], random, self.noise)
