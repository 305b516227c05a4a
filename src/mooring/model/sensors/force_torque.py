"""Sensors of the force and torque that a joint transmits."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, ClassVar, Literal

import numpy as np
from pydantic import Field

from mooring.geometry import Array
from mooring.model.definition.fields import Motion
from mooring.model.definition.markers import JointName
from mooring.model.sensors.sensor import XYZ, Mount, Sensor, noisy

if TYPE_CHECKING:
    from mooring.model.robot import Robot
    from mooring.tree import Tree


class ForceTorque(Sensor):
    """Measures the force and torque that a joint passes on to its child, in the child's frame.

    Attributes:
        kind: force_torque.
        joint: which one; a fixed joint does as well.
        force_noise: standard deviation of each force [N].
        moment_noise: of each moment [N m].
    """

    probe: ClassVar[str] = "force"

    kind: Literal["force_torque"]
    joint: JointName
    force_noise: float = Field(default=0.0, ge=0, allow_inf_nan=False)
    moment_noise: float = Field(default=0.0, ge=0, allow_inf_nan=False)

    def mount(self, robot: Robot, tree: Tree) -> Mount:
        return Mount(tree.link(robot.joints[self.joint].child))

    @property
    def joint_name(self) -> str:
        return self.joint

    @property
    def measures_load(self) -> bool:
        return True

    def columns(self, units: Mapping[str, str]) -> dict[str, str]:
        return {f"moment.{k}": "N m" for k in XYZ} | {f"force.{k}": "N" for k in XYZ}

    def faults(self, exact: Array, random: np.random.Generator, motion: Motion) -> Array:
        deviations = [self.moment_noise] * 3 + [self.force_noise] * 3
        return noisy(exact[:, :6], random, *deviations)
