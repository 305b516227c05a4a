"""What is said of a scene as a whole."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, Any, ClassVar

import numpy as np
from pydantic import BeforeValidator, Field, ValidationInfo, WithJsonSchema, field_validator

from mooring.geometry import Array
from mooring.model.compiling import BASE, PLACES
from mooring.model.definition.described import Described, Table
from mooring.model.definition.fields import Acceleration, Duration, Frequency, Length
from mooring.model.definition.markers import CoordinateName, MotionName, Quantity
from mooring.model.definition.problems import EntryError
from mooring.model.material import MaterialName
from mooring.model.motion import Steps
from mooring.model.posture import read_positions
from mooring.standard import STANDARD_GRAVITY
from mooring.units import to_si

if TYPE_CHECKING:
    from mooring.model.robot import Robot


def _start(value: Any, info: ValidationInfo) -> Any:
    """Positions by coordinate in SI, from numbers or strings with units."""
    robot = None if info.context is None else info.context.robot
    if not isinstance(value, Mapping) or robot is None:
        return value
    joints = {k: v for k, v in value.items() if not _floats(robot, k)}
    read = dict(read_positions(joints, info))
    for name, position in value.items():
        if name not in joints:
            dimension = "length" if name.rpartition(".")[2] in ("x", "y", "z") else "number"
            try:
                read[name] = to_si(position, dimension)
            except ValueError as error:
                raise EntryError("start", [((name,), str(error))]) from None
    return read


def _floats(robot: Robot, coordinate: str) -> bool:
    """Whether it is a coordinate such as `crate.z`."""
    joint, _, end = coordinate.rpartition(".")
    known = robot.joints.get(joint)
    floats = joint == BASE and robot.base == "floating" and BASE not in robot.joints
    return end in PLACES and (floats or (known is not None and known.kind.floats))


def _heights(value: Any) -> Any:
    if value is None:
        return None
    try:
        rows = tuple(tuple(to_si(height, "length") for height in row) for row in value)
    except TypeError:
        raise ValueError("heights are rows of lengths") from None
    if len(rows) < 2 or len(rows[0]) < 2 or any(len(row) != len(rows[0]) for row in rows):
        raise ValueError("heights need two equally long rows of two lengths, or more")
    return rows


_QUANTITY = {"anyOf": [{"type": "number"}, {"type": "string"}]}
_START = WithJsonSchema({"type": "object", "additionalProperties": _QUANTITY})


LONGEST_STEP = 0.02
"""[s]; what moves as machines do goes through itself in longer ones."""

SHORTEST_STEP = 1e-7
"""[s]; in shorter ones, rounding is as large as what happens in a step."""


class Ground(Described):
    """What everything stands on.

    Attributes:
        height: of level ground, or added to the heights of uneven ground [m].
        heights: of uneven ground [m]: a row for each x, in it a height for each y.
        cell: between neighbouring heights, along x and y [m].
        corner: x and y of the first height [m].
        material: what it is made of.

    Example:
        >>> quay = Ground(heights=[[0, "10 mm"], [0, 0]], cell="0.5 m", height="1 m")
        >>> quay.surface()
        array([[1.  , 1.01],
               [1.  , 1.  ]])
    """

    height: Length = 0.0
    heights: Annotated[
        tuple[tuple[float, ...], ...] | None,
        Quantity("length"),
        BeforeValidator(_heights),
        WithJsonSchema({"type": "array", "items": {"type": "array"}}),
    ] = None
    cell: Length = Field(default=0.1, ge=1e-3)
    corner: tuple[Length, Length] = (0.0, 0.0)
    material: MaterialName | None = None

    def surface(self) -> Array:
        """The heights with everything added, (i, j) [m]."""
        return np.array(self.heights, dtype=float) + self.height


class SceneSettings(Described):
    """A scene as a whole: how it is run, where nothing else is said.

    Attributes:
        gravity: [m/s^2].
        seconds: how long; as long as its motion takes if not given.
        step: from one instant to the next [s].
        rate: recorded instants per second [Hz].
        seed: of everything random.
        ground: what everything stands on; nothing if not given, level ground if it is true.
        motion: what motors do: the name of a motion, or its steps.
        start: where joints and what floats are at the beginning, by coordinate, such as `luff` or
            `crate.z` [rad or m].
    """

    word: ClassVar[str] = "scene"

    gravity: Acceleration = (0.0, 0.0, -STANDARD_GRAVITY)
    seconds: Duration | None = Field(default=None, gt=0)
    step: Duration = Field(default=1e-3, gt=0)
    rate: Frequency = Field(default=100.0, gt=0)
    seed: int = Field(default=0, ge=0)
    ground: Ground | None = None
    motion: MotionName | Steps | None = None
    start: Annotated[Table[CoordinateName, float], BeforeValidator(_start), _START] = Field(
        default_factory=dict
    )

    @field_validator("step")
    @classmethod
    def _neither_too_long_nor_too_short(cls, step: float) -> float:
        if not SHORTEST_STEP <= step <= LONGEST_STEP:
            raise ValueError(
                f"the step is from {SHORTEST_STEP:g} to {LONGEST_STEP:g} s, got {step:g} s"
            )
        return step

    @field_validator("ground", mode="before")
    @classmethod
    def _true_is_level_ground(cls, value: Any) -> Any:
        return {} if value is True else value

    @field_validator("motion", mode="before")
    @classmethod
    def _a_name_or_steps(cls, value: Any) -> Any:
        if value is not None and not isinstance(value, str | list | tuple):
            raise ValueError("motion is the name of a motion, or a list of steps")
        return value or None
