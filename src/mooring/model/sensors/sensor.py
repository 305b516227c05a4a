"""`Sensor`: what every sensor has, and what each kind of sensor must say."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any, ClassVar, NamedTuple, Protocol

import numpy as np
from pydantic import Field, model_validator

from mooring._native.simulation import PROBES
from mooring.geometry import Array
from mooring.model.definition.described import Described
from mooring.model.definition.fields import Duration, Frequency, Motion
from mooring.model.definition.markers import FrameName, JointName, LinkName
from mooring.model.definition.variants import kind_of

if TYPE_CHECKING:
    from mooring.model.robot import Robot
    from mooring.tree import Tree


class Mount(NamedTuple):
    """Where the core measures.

    Attributes:
        body: the body, as a row of the tree; -1 where the probe needs none.
        freedom: the freedom; -1 where the probe needs none.
        place: the sensor's frame in the body's, (4, 4).
    """

    body: int = -1
    freedom: int = -1
    place: Array = np.eye(4)


class View(NamedTuple):
    """What a camera takes pictures of, along the x axis of its frame, z up.

    Attributes:
        field: horizontal angle of view [rad].
        size: width and height [pixels].
        channels: what a picture holds: color, depth, label.
    """

    field: float
    size: tuple[int, int]
    channels: tuple[str, ...]


class Surroundings(Protocol):
    """What a sensor can look at that sees the scene as it was when it measured."""

    def frame(self, sensor: Sensor, q: Array) -> Array:
        """A sensor's frame in the world, (4, 4), at positions q (coordinates,)."""

    def distances(
        self, origins: Array, directions: Array, q: Array, nearest: float, farthest: float
    ) -> Array:
        """Distances along rays to whatever they meet first, (n,) [m]; inf where they meet nothing.

        Args:
            origins, directions: (n, 3) [m] and unit vectors, in the world.
            q: all positions, (coordinates,).
            nearest, farthest: the range of distances that count [m].
        """


class Sensor(Described):
    """What all sensors have.

    A kind of sensor is a subclass with a `kind` of its own, listed in `SENSORS` or registered with
    `mooring.register`. It says what the core measures (`probe`, `mount`), what a measurement holds
    (`columns`) and what is wrong with it (`faults`). From these follow its tables, its messages on
    the bridge, its readings in batches and learning environments, and its place in the page and in
    reports. Sensors that see the scene take the probe `state` and answer `look`.

    Attributes:
        name: unique among the robot's sensors.
        rate: measurements a second [Hz].
        latency: from a measurement to its being there to read [s].
    """

    probe: ClassVar[str]
    """What the core measures: motion, position, torque, force, contact or state."""

    name: str = Field(exclude=True)
    rate: Frequency = Field(gt=0)
    latency: Duration = Field(default=0.0, ge=0, allow_inf_nan=False)

    @classmethod
    def __pydantic_init_subclass__(cls, **options: Any) -> None:
        super().__pydantic_init_subclass__(**options)
        if hasattr(cls, "probe") and cls.probe not in PROBES:
            known = ", ".join(PROBES)
            raise TypeError(f"{cls.__name__}: the core has no probe {cls.probe!r}; it has {known}")

    @abstractmethod
    def mount(self, robot: Robot, tree: Tree) -> Mount:
        """Where the core measures."""

    @abstractmethod
    def columns(self, units: Mapping[str, str]) -> dict[str, str]:
        """The unit of each number of a measurement, by name.

        Args:
            units: of each moving joint's position, rad or m; empty where they are not known.
        """

    @abstractmethod
    def faults(self, exact: Array, random: np.random.Generator, motion: Motion) -> Array:
        """Measurements with bias, noise and resolution, (k, columns).

        Args:
            exact: (k, columns).
            random: the sensor's own source of noise.
            motion: of the joint that is measured, where one is.
        """

    def look(self, surroundings: Surroundings, states: Array) -> Array:
        """Exact measurements of scenes, (k, columns); for sensors with the probe `state`.

        Args:
            surroundings: what can be seen.
            states: all positions at each measurement, (k, coordinates).
        """
        raise NotImplementedError(f"a {self.kind_name} sensor does not look at the scene")

    # What follows from the kind, unless it says otherwise.

    @property
    def kind_name(self) -> str:
        """Its kind in documents."""
        return kind_of(type(self))

    @property
    def joint_name(self) -> str | None:
        """The joint that it measures, where it measures one."""
        return None

    @property
    def place_name(self) -> str | None:
        """The frame or link that it sits on, where it sits on one."""
        return None

    @property
    def looks(self) -> bool:
        """Whether it sees the scene as it was when it measured, instead of being measured by the
        core."""
        return self.probe == "state"

    @property
    def measures_load(self) -> bool:
        """Whether it measures what its joint transmits, in the frame of the joint's child."""
        return False

    @property
    def view(self) -> View | None:
        """What it takes pictures of, where a measurement is pictures; those are drawn when somebody
        wants them."""
        return None

    @property
    def fan(self) -> tuple[int, int] | None:
        """The layers and the rays of each, where a measurement is distances along rays."""
        return None

    def directions(self) -> Array:
        """The directions of its rays in its own axes, (rays, 3), where it has a fan."""
        raise NotImplementedError(f"a {self.kind_name} sensor has no rays")


class OnJoint(Sensor):
    """A sensor of a joint's position or effort.

    Attributes:
        joint: which one.
    """

    joint: JointName

    def mount(self, robot: Robot, tree: Tree) -> Mount:
        return Mount(freedom=tree.freedom(self.joint))

    @property
    def joint_name(self) -> str:
        return self.joint


class Mounted(Sensor):
    """A sensor on a link's own frame, or on a named frame.

    Attributes:
        link: the link it is fixed to, at the link's frame.
        frame: instead, the frame it sits on.
    """

    link: LinkName | None = None
    frame: FrameName | None = None

    @model_validator(mode="after")
    def _one_place(self) -> Mounted:
        if (self.link is None) == (self.frame is None):
            raise ValueError("give either the link or the frame it sits on")
        return self

    def mount(self, robot: Robot, tree: Tree) -> Mount:
        if self.frame is not None:
            body, place = tree.frames[self.frame]
            return Mount(body, place=place)
        return Mount(tree.link(self.link or ""))

    @property
    def place_name(self) -> str | None:
        return self.frame or self.link


XYZ = ("x", "y", "z")


def noisy(exact: Array, random: np.random.Generator, *deviations: float) -> Array:
    """Exact values (k, n) with normal noise of a standard deviation for each column."""
    return np.asarray(exact + random.standard_normal(exact.shape) * np.array(deviations))
