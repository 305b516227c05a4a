"""A scene: robots, obstacles and loose bodies on their ground."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Annotated, Any

import numpy as np
from pydantic import BeforeValidator, Field, WithJsonSchema, model_validator

from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.model.bodies import add_shaped_link
from mooring.model.fields import Described, Duration, Frequency, Length
from mooring.model.motion import MotionStep
from mooring.model.placement import Placement, Where
from mooring.model.robot import Robot
from mooring.model.validation import define
from mooring.standard import STANDARD_GRAVITY
from mooring.units import to_si

WORLD = "world"
"""What the link is called that everything in a scene stands on."""


def _heights(value: Any) -> Any:
    if value is None:
        return None
    try:
        rows = [[to_si(height, "length") for height in row] for row in value]
    except TypeError:
        raise ValueError("heights are rows of lengths") from None
    if len(rows) < 2 or len(rows[0]) < 2 or any(len(row) != len(rows[0]) for row in rows):
        raise ValueError("heights need two equally long rows of two lengths, or more")
    return rows


_HEIGHTS = WithJsonSchema({"type": "array", "items": {"type": "array"}})


class Ground(Described):
    """What everything stands on.

    Attributes:
        height: of level ground, or added to the heights of uneven ground [m].
        heights: of uneven ground [m]: a row for each x, in it a height for each y.
        cell: between neighbouring heights, along x and y [m].
        corner: x and y of the first height [m].
        material: what it is made of.
    """

    height: Length = 0.0
    heights: Annotated[list[list[float]] | None, BeforeValidator(_heights), _HEIGHTS] = None
    cell: Length = Field(default=0.1, gt=0)
    corner: tuple[Length, Length] = (0.0, 0.0)
    material: str | None = None

    def surface(self) -> Array:
        """The heights with everything added, (i, j) [m]."""
        return np.array(self.heights, dtype=float) + self.height


class Settings(Described):
    """How a scene is run, where nothing else is said.

    Attributes:
        gravity: [m/s^2].
        seconds: how long; as long as its motion takes if not given.
        step: from one instant to the next [s].
        rate: recorded instants per second [Hz].
        seed: of everything random.
    """

    gravity: Annotated[
        tuple[float, float, float],
        BeforeValidator(lambda v: tuple(to_si(part, "acceleration") for part in v)),
        WithJsonSchema({"type": "array", "minItems": 3, "maxItems": 3}),
    ] = (0.0, 0.0, -STANDARD_GRAVITY)
    seconds: Duration | None = Field(default=None, gt=0)
    step: Duration = Field(default=1e-3, gt=0)
    rate: Frequency = Field(default=100.0, gt=0)
    seed: int = Field(default=0, ge=0)

    @model_validator(mode="after")
    def _not_wider_than_steps(self) -> Settings:
        if self.step > 0.1:
            raise ValueError("the step must not be longer than 0.1 s")
        return self


class Scene:
    """Robots, obstacles and loose bodies, put together into one robot whose root is the world.

    Attributes:
        robot: everything in it; what floats has coordinates such as `line_eye.x`.
        ground: what it stands on, or None.
        settings: how it is run.
        motion: what motors do: the name of a motion of the robots, or steps.
        start: where joints and what floats are at the beginning, by coordinate.

    Example:
        >>> scene = Scene("quay", ground=Ground())
        >>> scene.add_body("crate", mass="20 kg", box=("0.4 m", "0.4 m", "0.3 m"), at=(0, 0, 0.15))
        >>> scene.robot.coordinates[:3]
        ['crate.x', 'crate.y', 'crate.z']
    """

    def __init__(
        self, name: str, *, ground: Ground | Mapping[str, Any] | None = None, **settings: Any
    ) -> None:
        """Begin with nothing but the ground.

        Args:
            name: of the scene.
            ground: a `Ground`, or its keys; None for none.
            settings: the keys of `Settings`.

        Raises:
            ModelError: a value is wrong.
        """
        self.robot = Robot(name)
        self.robot.add_link(WORLD)
        self.ground = define(Ground, "ground", ground) if isinstance(ground, Mapping) else ground
        self.settings = define(Settings, f"scene {name!r}", settings)
        self.motion: str | Sequence[MotionStep] | None = None
        self.start: dict[str, float | str] = {}

    @property
    def name(self) -> str:
        return self.robot.name

    def add_robot(
        self,
        robot: Robot,
        *,
        at: Where = None,
        base: str | None = None,
        prefix: str = "",
        posture: str | Mapping[str, float | str] | None = None,
    ) -> None:
        """Put a robot into the scene.

        Args:
            robot: stays as it is.
            at: where its root's frame comes to be.
            base: `"fixed"` or `"floating"`; the robot's own if not given.
            prefix: put before its names; needed where two robots have the same.
            posture: in which it starts: a name, or positions by its joints' own names.

        Raises:
            ModelError: a name is taken, or there is no such posture.
            UnsoundRobotError: the robot is no tree.
        """
        floats = (base or robot.base) == "floating"
        if base not in (None, "fixed", "floating"):
            raise ModelError(f"base must be fixed or floating, got {base!r}")
        if isinstance(posture, str):
            if posture not in robot.postures:
                raise ModelError(f"{robot.name} has no posture called {posture!r}")
            posture = robot.postures[posture]
        joint = f"{prefix}base"
        if joint in self.robot.joints:
            raise ModelError(
                f"there is already a robot whose names begin with {prefix!r}; give {robot.name} "
                "another prefix"
            )
        self.robot.include(robot, prefix=prefix, onto=WORLD, at=at, joint=joint)
        if floats:
            mount = self.robot.joints.pop(joint)
            self.robot.describe_joint(
                joint,
                {"type": "floating", "parent": WORLD, "child": mount.child, "at": mount.at},
            )
        for name, value in (posture or {}).items():
            self.start[f"{prefix}{name}"] = value

    def add_body(
        self,
        name: str,
        *,
        at: Where = None,
        **link: Any,
    ) -> None:
        """Add a loose body.

        Args:
            name: of its link and of what floats with it.
            at: where its frame is at the beginning.
            link: as for `Robot.add_link`; `box`, `sphere`, `cylinder` or `capsule` stand for a
                shape to see and to collide with, which also tells its inertia.

        Raises:
            ModelError: the name is taken, or a value is wrong.
        """
        add_shaped_link(self.robot, name, link)
        self.robot.describe_joint(
            name, {"type": "floating", "parent": WORLD, "child": name, "at": Placement.of(at)}
        )

    def add_obstacle(self, name: str, *, at: Where = None, **link: Any) -> None:
        """Add something that never moves; see `add_body`."""
        add_shaped_link(self.robot, name, link)
        self.robot.describe_joint(
            f"{name}_stands",
            {"type": "fixed", "parent": WORLD, "child": name, "at": Placement.of(at)},
        )

    @staticmethod
    def of(robot: Robot, ground: Ground | None = None) -> Scene:
        """A robot by itself, under its own names."""
        scene = Scene.__new__(Scene)
        scene.robot = robot
        scene.ground = ground
        scene.settings = Settings()
        scene.motion = None
        scene.start = {}
        return scene
