"""Postures: positions of joints under a name."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any

from pydantic import BeforeValidator, ValidationInfo, WithJsonSchema

from mooring.errors import Problem, did_you_mean, told
from mooring.model.definition.described import Table
from mooring.model.definition.fields import dimension_of
from mooring.model.definition.markers import JointQuantity, PositionedJointName
from mooring.model.definition.problems import EntryError
from mooring.model.joint import Joint
from mooring.units import to_si

Position = Annotated[
    float | str,
    JointQuantity("position"),
    WithJsonSchema({"anyOf": [{"type": "number"}, {"type": "string"}]}),
]
"""A position in a mapping by joint, whose joint tells whether it is an angle or a length.

It is a number as soon as the robot is known; until then a string waits to be read.
"""


BY_JOINT = WithJsonSchema(
    {
        "type": "object",
        "additionalProperties": {"anyOf": [{"type": "number"}, {"type": "string"}]},
    }
)


def read_positions(value: Any, info: ValidationInfo) -> Any:
    """Positions by joint in SI, from numbers or strings with units; see `read_by_joint`."""
    return read_by_joint(value, info, "position")


def read_by_joint(value: Any, info: ValidationInfo, quantity: str) -> Any:
    """Positions, velocities, ... by joint in SI, from numbers or strings with units.

    Raises:
        EntryError: a joint is unknown or does not move, or a value is wrong.
    """
    if not isinstance(value, Mapping):
        raise EntryError(
            "positions", [((), f"expected positions by joint name, got {told(value)}")]
        )
    robot = None if info.context is None else info.context.robot
    read: dict[str, float | str] = {}
    problems: list[Problem] = []
    for name, position in value.items():
        joint = None if robot is None else robot.joints.get(name)
        if joint is None and robot is not None:
            hint = did_you_mean(str(name), list(robot.joints))
            text = f"no joint is called {name!r}{hint}"
            problems.append(Problem(text, (name,), "unknown-name", ("joint", str(name))))
        elif joint is not None and not joint.has_axis:
            text = f"joint {name!r} is {joint.type} and has no position"
            problems.append(Problem(text, (name,)))
        else:
            try:
                read[name] = _read(position, joint, quantity)
            except ValueError as error:
                problems.append(Problem(str(error), (name,)))
    if problems:
        raise EntryError("positions", problems)
    return read


def _read(position: Any, joint: Joint | None, quantity: str) -> float | str:
    if joint is not None:
        return to_si(position, dimension_of(quantity, joint.motion))
    return position if isinstance(position, str) else to_si(position, "number")


Positions = Annotated[
    Table[PositionedJointName, Annotated[float, JointQuantity("position")]],
    BeforeValidator(read_positions),
    BY_JOINT,
]
