"""Inertial units."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from mooring.geometry import Array
from mooring.model.definition.fields import Motion
from mooring.model.sensors.sensor import XYZ, Mounted


class Imu(Mounted):
    """Measures specific force and angular rate.

    Attributes:
        kind: imu.
        force_bias: what it adds to the specific force, in its own axes [m/s^2].
        rate_bias: what it adds to the angular rate [rad/s].
        force_noise: of the specific force, a density [m/s^2/sqrt(Hz)].
        rate_noise: of the angular rate, a density [rad/s/sqrt(Hz)].
        orientation: whether it gives its orientation too.
    """

    probe: ClassVar[str] = "motion"

    kind: Literal["imu"]
    force_bias: tuple[float, float, float] = (0.0, 0.0, 0.0)
    rate_bias: tuple[float, float, float] = (0.0, 0.0, 0.0)
    force_noise: float = Field(default=0.0, ge=0, allow_inf_nan=False)
    rate_noise: float = Field(default=0.0, ge=0, allow_inf_nan=False)
    orientation: bool = False

    def columns(self, units: Mapping[str, str]) -> dict[str, str]:
        turn = ["qx", "qy", "qz", "qw"] if self.orientation else []
        return (
            {f"force.{k}": "m/s^2" for k in XYZ}
            | {f"rate.{k}": "rad/s" for k in XYZ}
            | dict.fromkeys(turn, "1")
        )

    def faults(self, exact: Array, random: np.random.Generator, motion: Motion) -> Array:
        noise = random.standard_normal((len(exact), 6))
        noise[:, :3] *= self.force_noise * np.sqrt(self.rate)
        noise[:, 3:] *= self.rate_noise * np.sqrt(self.rate)
        measured = exact[:, :6] + [*self.force_bias, *self.rate_bias] + noise
        return np.column_stack([measured, exact[:, 6:10]]) if self.orientation else measured
