"""What the columns of a run's tables stand for, and tables from what was recorded."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.geometry import Array
from mooring.model.motor_modes import MOTOR_MODES
from mooring.model.scene import Ground
from mooring.simulation.recording.columns import CONTACTS, ENERGIES, in_units, units_of
from mooring.simulation.recording.kept import Measured
from mooring.simulation.recording.motor_table import Drive
from mooring.simulation.stepping.arrays import Columns

if TYPE_CHECKING:
    import pandas as pd

    from mooring.simulation.simulation import Simulation

GROUND = "ground"


@dataclass
class Layout:
    """The names for the numbers that are recorded.

    Attributes:
        robot: the robot's or scene's name.
        coordinates: in the order of q.
        freedoms: in the order of v.
        links: in the order of the bodies.
        units: of the position of each moving joint, rad or m.
        limits: the effort limit of each motor's joint, in the order of the motors; inf for none.
        modes: how each motor's joint is driven.
        drives: of each motor's joint, what its current and heat follow from.
        integrating: joints whose motors have an integral part.
        sensors: by name, the columns of its measurements, each with its unit.
        latencies: how long each sensor's measurements take to arrive [s].
        ground: what everything stands on.
    """

    robot: str
    coordinates: list[str]
    freedoms: list[str]
    links: list[str]
    units: dict[str, str]
    limits: dict[str, float]
    modes: dict[str, str]
    drives: dict[str, Drive]
    integrating: list[str] = field(default_factory=list)
    sensors: dict[str, dict[str, str]] = field(default_factory=dict)
    latencies: dict[str, float] = field(default_factory=dict)
    ground: Ground | None = None

    @staticmethod
    def of(simulation: Simulation) -> Layout:
        """What a simulation records."""
        robot, tree = simulation.robot, simulation.tree
        coordinates = list(tree.coordinates)
        motors = {motor.joint: motor for motor in robot.motors.values()}
        driven = simulation.driven
        units = {
            name: "rad" if motion == "rotation" else "m"
            for name, motion in zip(tree.freedoms, tree.motions, strict=True)
            if name in tree.coordinates
        }
        return Layout(
            robot.name,
            coordinates,
            list(tree.freedoms),
            list(tree.links),
            units,
            {joint: float(simulation.motors.effort[m]) for m, joint in enumerate(driven)},
            {joint: motors[joint].mode for joint in driven},
            {joint: Drive.of(motors[joint]) for joint in driven},
            [joint for joint in driven if motors[joint].i],
            {
                name: units_of(coordinates, units, {})
                if sensor.view is not None
                else sensor.columns(units)
                for name, sensor in robot.sensors.items()
            },
            {name: sensor.latency for name, sensor in robot.sensors.items()},
            simulation.ground,
        )

    def described(self) -> dict[str, Any]:
        """As plain values."""
        return {
            "robot": self.robot,
            "coordinates": self.coordinates,
            "freedoms": self.freedoms,
            "links": self.links,
            "units": self.units,
            "limits": {k: (v if np.isfinite(v) else None) for k, v in self.limits.items()},
            "modes": self.modes,
            "drives": {joint: drive.described() for joint, drive in self.drives.items()},
            "integrating": self.integrating,
            "sensors": self.sensors,
            "latencies": self.latencies,
            "ground": None if self.ground is None else self.ground.model_dump(),
        }

    @staticmethod
    def read(said: Mapping[str, Any]) -> Layout:
        """From what `described` gave.

        Raises:
            KeyError, TypeError, ValueError: it is something else.
        """
        return Layout(
            str(said["robot"]),
            [str(name) for name in said["coordinates"]],
            [str(name) for name in said["freedoms"]],
            [str(name) for name in said["links"]],
            dict(said["units"]),
            {k: np.inf if v is None else float(v) for k, v in said["limits"].items()},
            dict(said["modes"]),
            {joint: Drive(**drive) for joint, drive in said["drives"].items()},
            list(said["integrating"]),
            {name: dict(columns) for name, columns in said["sensors"].items()},
            {name: float(late) for name, late in said["latencies"].items()},
            None if said["ground"] is None else Ground(**said["ground"]),
        )

    def table(self, chunks: Sequence[Columns]) -> pd.DataFrame:
        """One row an instant, index "time"."""
        import pandas as pd

        def whole(name: str, width: int) -> Array:
            pieces = [np.zeros((0, width)), *(getattr(chunk, name) for chunk in chunks)]
            return np.concatenate([piece.reshape(len(piece), width) for piece in pieces])

        data: dict[str, Array] = {}

        def put(names: Sequence[str], rows: Array) -> None:
            for k, name in enumerate(names):
                data[name] = rows[:, k]

        joints = self.units
        motors = list(self.limits)
        put(
            [f"{name}.position" if name in joints else name for name in self.coordinates],
            whole("position", len(self.coordinates)),
        )
        put(
            [f"{name}.velocity" if name in joints else name for name in self.freedoms],
            whole("velocity", len(self.freedoms)),
        )
        targets = whole("target", 2 * len(motors))
        efforts, integrals = whole("effort", len(motors)), whole("integral", len(motors))
        for m, joint in enumerate(motors):
            data[f"{joint}.target"] = targets[
                :, 2 * m + int(MOTOR_MODES[self.modes[joint]].tracks_velocity)
            ]
            data[f"{joint}.effort"] = efforts[:, m]
            if joint in self.integrating:
                data[f"{joint}.integral"] = integrals[:, m]
        put([f"energy.{name}" for name in ENERGIES], whole("energy", len(ENERGIES)))
        put(["loops.gap"], whole("gap", 1))
        table = pd.DataFrame(data, index=pd.Index(whole("time", 1)[:, 0], name="time"))
        return in_units(table, {"time": "s", **units_of(data, joints, self.modes)})

    def contacts(self, chunks: Sequence[Columns]) -> pd.DataFrame:
        """One row a contact that pushed in a recorded instant."""
        import pandas as pd

        rows: dict[str, list[Array]] = {name: [] for name in CONTACTS}
        # The ground, -1, is the last.
        links = np.array([*self.links, GROUND], dtype=object)
        for chunk in chunks:
            if len(chunk.touching):
                row, first, second = chunk.touching.T
                rows["time"].append(chunk.time[row])
                rows["first"].append(links[first])
                rows["second"].append(links[second])
                for k, name in enumerate(list(CONTACTS)[3:]):
                    rows[name].append(chunk.force[:, k])
        table = pd.DataFrame(
            {name: np.concatenate(parts) if parts else np.array([]) for name, parts in rows.items()}
        )
        # Of the same types, whether anything touched or not.
        return in_units(table.astype({"first": "str", "second": "str"}), CONTACTS)

    def measurements(self, sensor: str, measured: Sequence[Measured]) -> pd.DataFrame:
        """One row a measurement, index "time"."""
        import pandas as pd

        units = self.sensors[sensor]
        columns = list(units)
        times = np.concatenate([np.zeros(0), *(t for t, _ in measured)])
        values = np.concatenate([np.zeros((0, len(columns))), *(v for _, v in measured)])
        table = pd.DataFrame(values, columns=columns, index=pd.Index(times, name="time"))
        table.insert(0, "arrives", times + self.latencies[sensor])
        return in_units(table, {"time": "s", "arrives": "s", **units})
