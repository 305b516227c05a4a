"""The motors that are on, as whoever commands them needs to know them."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

from mooring.errors import ModelError
from mooring.model.definition.fields import dimension_of
from mooring.model.motor_modes import MOTOR_MODES
from mooring.simulation.stepping.build import MODES
from mooring.units import to_si

if TYPE_CHECKING:
    from mooring.model import Robot
    from mooring.simulation.stepping.arrays import MotorArrays
    from mooring.tree import Tree

_QUANTITIES = ("position", "velocity", "effort")


@dataclass(frozen=True)
class Drive:
    """A motor that is on.

    Attributes:
        joint: that it drives.
        motor: its row among the motors.
        place: of the joint's position in q.
        mode: how it is driven.
        dimensions: of what it may be told, by quantity.
        limits: of the joint, lowest and highest, by quantity.
    """

    joint: str
    motor: int
    place: int
    mode: str
    dimensions: dict[str, str]
    limits: dict[str, tuple[float, float]]

    @property
    def goes_to_positions(self) -> bool:
        """Whether it can be told where the joint is to be."""
        return "position" in self.dimensions

    def read(self, quantity: str, value: float | str) -> float:
        """What it is told, in SI.

        Raises:
            ModelError: it would do nothing with it, or the value is wrong.
        """
        dimension = self.dimensions.get(quantity)
        if dimension is None:
            raise ModelError(
                f"the motor of {self.joint!r} is driven by {self.mode}; a {quantity} does nothing "
                f"to it, give it {' or '.join(self.dimensions)}"
            )
        if type(value) is float and math.isfinite(value):
            return value
        try:
            return to_si(value, dimension)
        except ValueError as error:
            raise ModelError(f"the {quantity} of {self.joint!r}: {error}") from None


def drives_of(robot: Robot, tree: Tree, motors: MotorArrays) -> dict[str, Drive]:
    """The motors that are on, by joint."""
    found = {}
    for motor, row in enumerate(motors.freedom):
        joint, mode = tree.freedoms[row], MODES[motors.mode[motor]]
        motion = tree.motions[row]
        limits = robot.joints[joint].limits
        bounds = dict.fromkeys(_QUANTITIES, (-math.inf, math.inf))
        if limits is not None:
            bounds = {
                "position": _range(limits.lower, limits.upper),
                "velocity": _range(_negative(limits.velocity), limits.velocity),
                "effort": _range(_negative(limits.effort), limits.effort),
            }
        found[joint] = Drive(
            joint, motor, tree.coordinate(joint), mode,
            {what: dimension_of(what, motion) for what in MOTOR_MODES[mode].commands}, bounds,
        )  # fmt: skip
    return found


def _range(lower: float | None, upper: float | None) -> tuple[float, float]:
    return -math.inf if lower is None else lower, math.inf if upper is None else upper


def _negative(limit: float | None) -> float | None:
    return None if limit is None else -limit
