"""What refers to the links and joints of a robot, added item by item in Python."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from typing import Any, Unpack

from mooring.arguments import proven_methods
from mooring.model.closure import ClosureKind
from mooring.model.definition.context import Context
from mooring.model.motion import MotionStep
from mooring.model.robot.adding import said
from mooring.model.robot.keywords import (
    CableKeywords,
    ClosureKeywords,
    ConveyorKeywords,
    CouplingKeywords,
    FrameKeywords,
    GripKeywords,
    MaterialKeywords,
    MotorKeywords,
    SpringKeywords,
    TableKeywords,
)


@proven_methods
class Furnished(ABC):
    """A robot as it is furnished: with motors, sensors, frames, postures and so on."""

    @abstractmethod
    def add(self, kind: str, name: Any, entry: Any, *, context: Context | None = None) -> None:
        """Add an item as a document describes it; see `Robot.add`."""

    def add_coupling(self, joint: str, *, follows: str, **entry: Unpack[CouplingKeywords]) -> None:
        """Make a joint follow another; entries are the fields of `Coupling`.

        Raises:
            ModelError: a joint is unknown, follows two others, or a value is wrong.

        Example:
            `robot.add_coupling("right_jaw", follows="left_jaw", ratio=-1)`
        """
        self.add("coupling", joint, {"follows": follows, **said(entry)})

    def add_closure(
        self,
        name: str,
        kind: ClosureKind,
        *,
        between: Sequence[str],
        **entry: Unpack[ClosureKeywords],
    ) -> None:
        """Close a loop between two links that meet at a place in the neutral posture.

        Args:
            name: a new name.
            kind: `"ball"`, `"hinge"`, `"slide"` or `"weld"`.
            between: the two links.
            entry: the other fields of `Closure`; `at` as for `add_joint`.

        Raises:
            ModelError: the name is taken, a link is unknown or a value is wrong.

        Example:
            `robot.add_closure("pin", "hinge", between=("rod", "boom"), at=(0.2, 0, 0), axis="y")`
        """
        self.add("closure", name, {"kind": kind, "between": between, **said(entry)})

    def add_spring(
        self, name: str, *, between: Sequence[str], **entry: Unpack[SpringKeywords]
    ) -> None:
        """Put a spring and damper between two frames; entries are the fields of `Spring`.

        Raises:
            ModelError: the name is taken, a frame is unknown or a value is wrong.

        Example:
            `robot.add_spring("rope", between=("eye", "ring"), stiffness="4 kN/m")`
        """
        self.add("spring", name, {"between": between, **said(entry)})

    def add_cable(self, name: str, **entry: Unpack[CableKeywords]) -> None:
        """Tie frames or joints together by a rope, chain or belt; entries are the fields of
        `Cable`.

        Raises:
            ModelError: the name is taken, a frame or joint is unknown or a value is wrong.

        Example:
            `robot.add_cable("hoist", through=("sheave", "hook"), winds={"drum": "50 mm"})`
        """
        self.add("cable", name, said(entry))

    def add_force(self, name: str, kind: str, **entry: Any) -> None:
        """Put a force with a law on a link; entries are the fields of its kind.

        Args:
            name: a new name.
            kind: `"rotor"`, `"drag"` or `"buoyancy"`.
            entry: see `RotorThrust`, `Drag` and `Buoyancy`.

        Raises:
            ModelError: the name is taken, what it acts on is unknown or a value is wrong.

        Example:
            `robot.add_force("water", "buoyancy", link="float", level="0 m")`
        """
        self.add("force", name, {"kind": kind, **said(entry)})

    def add_conveyor(self, name: str, *, link: str, **entry: Unpack[ConveyorKeywords]) -> None:
        """Let the surface of a link run; entries are the fields of `Conveyor`.

        Raises:
            ModelError: the name is taken, the link is unknown or a value is wrong.

        Example:
            `robot.add_conveyor("belt", link="bed", direction="x", speed="0.3 m/s")`
        """
        self.add("conveyor", name, {"link": link, **said(entry)})

    def add_grip(
        self, name: str, *, frame: str, force: float | str, **entry: Unpack[GripKeywords]
    ) -> None:
        """Put a suction cup or magnet on a frame; entries are the fields of `Grip`.

        Raises:
            ModelError: the name is taken, the frame is unknown or a value is wrong.

        Example:
            `robot.add_grip("cup", frame="tip", force="60 N", shear="20 N")`
        """
        self.add("grip", name, {"frame": frame, "force": force, **said(entry)})

    def add_table(
        self,
        name: str,
        *,
        base: str,
        rows: Sequence[Mapping[str, Any]],
        **entry: Unpack[TableKeywords],
    ) -> None:
        """Give a table of dimensions to hold the robot against: the fields of `DimensionTable`.

        Raises:
            ModelError: the name is taken, what it names is unknown or a value is wrong.

        Example:
            `robot.add_table("data_sheet", base="base", end="flange",
            rows=[{"d": "400 mm", "alpha": "90 deg"}, {"a": "450 mm"}])`
        """
        self.add("table", name, {"base": base, "rows": list(rows), **said(entry)})

    def add_device(
        self,
        name: str,
        *,
        inputs: Mapping[str, Mapping[str, Any]] | None = None,
        outputs: Mapping[str, Mapping[str, Any]] | None = None,
    ) -> None:
        """Say which two-valued signals a device's control offers: the fields of `Device`.

        Raises:
            ModelError: the name is taken, what it moves is unknown or a value is wrong.

        Example:
            `robot.add_device("clamp", inputs={"close": {"joints": {"jaw": 0}, "travel": 0.8}},
            outputs={"closed": {"load": {"jaw": "20 N*m"}}})`
        """
        self.add("device", name, said({"inputs": inputs, "outputs": outputs}))

    def add_motor(self, name: str, *, joint: str, **entry: Unpack[MotorKeywords]) -> None:
        """Drive a joint towards a target; entries are the fields of `Motor`.

        Raises:
            ModelError: the name is taken, the joint is unknown or driven already, a value is wrong.

        Example:
            `robot.add_motor("drive", joint="slew", p="9 kN*m/rad", d="900 N*m*s/rad")`
        """
        self.add("motor", name, {"joint": joint, **said(entry)})

    def add_frame(self, name: str, *, link: str, **entry: Unpack[FrameKeywords]) -> None:
        """Fix a frame to a link; entries are the fields of `LinkFrame`.

        Raises:
            ModelError: the name is taken, the link is unknown, or a value is wrong.

        Example:
            `robot.add_frame("grip", link="clamp", at=(0, 0, "140 mm"), role="tool")`
        """
        self.add("frame", name, {"link": link, **said(entry)})

    def add_sensor(self, name: str, kind: str, **entry: Any) -> None:
        """Add a sensor.

        Args:
            name: a new name.
            kind: `"imu"`, `"encoder"`, `"joint_torque"`, `"force_torque"`, `"contact"`,
                `"range_scanner"` or `"camera"`.
            entry: the fields of that kind, see `mooring.model.sensor`.

        Raises:
            ModelError: the name is taken, a link, frame or joint is unknown, or a value is wrong.

        Example:
            `robot.add_sensor("tip_imu", "imu", link="boom", rate="200 Hz")`
        """
        self.add("sensor", name, {"kind": kind, **entry})

    def add_posture(self, name: str, positions: Mapping[str, float | str]) -> None:
        """Name a posture: positions by joint; joints not named are at zero.

        Joints that follow others or are moved by a loop need not be named.

        Raises:
            ModelError: the name is taken, a joint is unknown, or a value is wrong.
        """
        self.add("posture", name, positions)

    def add_motion(self, name: str, steps: Sequence[Mapping[str, Any] | MotionStep]) -> None:
        """Name a motion: a sequence of steps, each a `MotionStep` or its fields.

        Raises:
            ModelError: the name is taken, something it names is unknown, or a value is wrong.

        Example:
            `robot.add_motion("fold", [{"to": "stowed", "hold": "1 s"}])`
        """
        self.add("motion", name, steps)

    def add_material(
        self, name: str, *, density: float | str, **entry: Unpack[MaterialKeywords]
    ) -> None:
        """Add a material, or give a name of the built-in table another density.

        Args:
            name: a new name.
            density: of what is made of it.
            entry: the other fields of `Material`.

        Raises:
            ModelError: the name is taken, or a value is not what it should be.

        Example:
            `robot.add_material("paint", density="7850 kg/m^3", color="#3f6f8f")`
        """
        self.add("material", name, {"density": density, **said(entry)})
