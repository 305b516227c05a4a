"""What a robot description holds."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from mooring.cad import Assembly, Part
from mooring.errors import ModelError, Place, did_you_mean
from mooring.model.checking import CheckSettings
from mooring.model.drive import Motor
from mooring.model.fields import Motion, dimension_of
from mooring.model.frame import LinkFrame
from mooring.model.joint import Joint, motion_of
from mooring.model.link import Link
from mooring.model.material import Material
from mooring.model.motion import MotionStep
from mooring.model.robot.values import read_value
from mooring.model.sensor import Sensor
from mooring.model.ties import Closure, Coupling, Spring
from mooring.model.validation import EntryError, Path

ItemPath = tuple[str, ...]
Base = Literal["fixed", "floating"]
Pair = tuple[str, str]


class Contents:
    """The items of a robot, by name; see `Robot`."""

    def __init__(self, name: str) -> None:
        self.name = name
        self.base: Base = "fixed"
        self.links: dict[str, Link] = {}
        self.joints: dict[str, Joint] = {}
        self.couplings: dict[str, Coupling] = {}
        self.closures: dict[str, Closure] = {}
        self.springs: dict[str, Spring] = {}
        self.motors: dict[str, Motor] = {}
        self.sensors: dict[str, Sensor] = {}
        self.frames: dict[str, LinkFrame] = {}
        self.postures: dict[str, dict[str, float]] = {}
        self.motions: dict[str, tuple[MotionStep, ...]] = {}
        self.allowances: dict[Pair, str] = {}
        self.materials: dict[str, Material] = {}
        self.assemblies: list[Assembly] = []
        self.places: dict[ItemPath, Place] = {}
        self.checks = CheckSettings()
        self.missing_meshes: list[tuple[str, str]] = []
        self.notes: list[str] = []
        self.unused: list[Part] = []

    def read_positions(self, what: str, positions: Mapping[str, float | str]) -> dict[str, float]:
        """Positions by joint name in SI, from numbers or strings with units.

        Raises:
            ModelError: a joint is unknown or does not move, or a value is wrong.
        """
        if not isinstance(positions, Mapping):
            raise EntryError(what, [((), f"expected positions by joint name, got {positions!r}")])
        read: dict[str, float] = {}
        problems: list[tuple[Path, str]] = []
        for joint, value in positions.items():
            try:
                motion = self._motion_of(joint, what, (joint,))
                read[joint] = read_value(what, joint, value, dimension_of("position", motion))
            except EntryError as error:
                problems.extend(error.problems)
        if problems:
            raise EntryError(what, problems)
        return read

    def _free(self, kind: str, name: str, taken: Mapping[str, object]) -> None:
        if not isinstance(name, str) or not name.strip():
            raise ModelError(f"a {kind} needs a name, got {name!r}")
        if name in taken:
            raise ModelError(f"there is already a {kind} called {name!r}")

    def _motion_of(self, joint: str, what: str, path: ItemPath) -> Motion:
        if joint not in self.joints:
            hint = did_you_mean(joint, list(self.joints))
            raise EntryError(what, [(path, f"no joint is called {joint!r}{hint}")])
        if not self.joints[joint].has_axis:
            kind = self.joints[joint].type
            raise EntryError(what, [(path, f"joint {joint!r} is {kind} and has no position")])
        return motion_of(self.joints[joint].type)
