"""What a run leaves behind."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from os import PathLike
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.arguments import proven_methods
from mooring.errors import InputError, ModelError
from mooring.files import write_text, write_whole
from mooring.geometry import Array
from mooring.model.scene import Ground
from mooring.simulation.recording.finding import RunFinding
from mooring.simulation.recording.motor_table import Drive, motor_table
from mooring.simulation.saving import SavedState

if TYPE_CHECKING:
    import pandas as pd

ENERGIES = {
    "kinetic": "kinetic energy",
    "potential": "potential energy, with that of springs",
    "motors": "given by motors so far",
    "damping": "lost to damping and drag so far",
    "friction": "lost to dry friction in joints so far",
    "contact": "lost in contacts and at stops so far",
    "pushes": "given by pushes, rotors and buoyancy so far",
}
_FORMAT = 4
END_FILE = "end.state"
"""What a folder with a run calls the state at its end."""
MODEL_FILE = "model.json"
"""What a folder with a run calls the robot that was run."""


@proven_methods
@dataclass(eq=False)
class Recording:
    """A run, by name.

    Attributes:
        robot: the robot's or scene's name.
        table: one row an instant, index "time" in seconds; `columns` says what each column holds.
        contacts: one row a contact that pushed in a recorded instant: time; first and second, the
            links ("ground" is one); x, y, z where [m]; fx, fy, fz the force on the second [N]; gap
            [m], less than zero where they overlap.
        sensors: by name, measurements with the index "time", when they were taken [s], and a column
            "arrives", when they were there to read [s]. Those of a camera are coordinates: how
            everything stood; `mooring.drawing.camera_pictures` draws what it saw.
        limits: the effort limit of each motor's joint, inf where there is none.
        units: of the position of each moving joint, rad or m.
        drives: of each motor's joint, what its current and heat follow from.
        modes: how each motor's joint is driven: position, velocity, effort or motion.
        coordinates: of the robot, in the order of q.
        freedoms: of the robot, in the order of v.
        signals: when a signal of a device changed [s], its whole name, and to what; at the
            beginning all are false.
        complete: whether the run reached its end.
        notes: what the run has to say besides its findings: why it ended early, what was assumed.
        findings: what went wrong, the likely cause of the rest first.
        ground: what everything stood on.
        end: the whole state at the end, from which a simulation goes on as if it had never stopped.
    """

    robot: str
    table: pd.DataFrame
    limits: dict[str, float]
    units: dict[str, str]
    coordinates: list[str]
    freedoms: list[str]
    contacts: pd.DataFrame
    sensors: dict[str, pd.DataFrame] = field(default_factory=dict)
    modes: dict[str, str] = field(default_factory=dict)
    drives: dict[str, Drive] = field(default_factory=dict)
    signals: list[tuple[float, str, bool]] = field(default_factory=list)
    complete: bool = True
    notes: list[str] = field(default_factory=list)
    findings: list[RunFinding] = field(default_factory=list)
    ground: Ground | None = None
    end: SavedState | None = None

    @property
    def joints(self) -> list[str]:
        """Names of the moving joints."""
        return list(self.units)

    @property
    def driven(self) -> list[str]:
        """Names of the joints that have a motor."""
        return list(self.limits)

    def motor_table(self) -> pd.DataFrame:
        """What each motor did: peak and RMS effort, power, energy, current, heat.

        One row a driven joint; `mooring.simulation.recording.motor_table.COLUMNS` says what each
        column holds.
        """
        return motor_table(self.table, self.limits, self.drives)

    @property
    def columns(self) -> dict[str, str]:
        """What each column of the table holds, with its unit."""
        said = {}
        for name in self.table.columns:
            said[str(name)] = self._meaning(str(name))
        return said

    def _meaning(self, column: str) -> str:
        name, _, end = column.rpartition(".")
        if column == "loops.gap":
            return "how far the worst coupling or closure is open [m or rad]"
        if name == "energy":
            return f"{ENERGIES[end]} [J]"
        if name in self.units:
            unit = self.units[name]
            effort = "N m" if unit == "rad" else "N"
            return {
                "position": f"position of {name} [{unit}]",
                "velocity": f"velocity of {name} [{unit}/s]",
                "target": f"where the motor of {name} is to go [{unit}], or how fast [{unit}/s]",
                "effort": f"effort of the motor of {name} [{effort}]",
                "integral": f"integral of the position error of {name} [{unit} s]",
            }[end]
        unit = {"x": "m", "y": "m", "z": "m"}.get(end) or (
            "rad/s" if end.startswith("w") else "m/s" if end.startswith("v") else "1"
        )
        kind = {"rad/s": "angular velocity", "m/s": "velocity", "m": "place"}.get(
            unit, "part of the quaternion"
        )
        return f"{kind} of what floats by {name}, {end} [{unit}]"

    def positions(self) -> Array:
        """q at every recorded instant, (r, n), in the order of `coordinates`."""
        columns = [f"{c}.position" if c in self.units else c for c in self.coordinates]
        return self.table[columns].to_numpy(dtype=float)

    def velocities(self) -> Array:
        """v at every recorded instant, (r, m), in the order of `freedoms`."""
        columns = [f"{c}.velocity" if c in self.units else c for c in self.freedoms]
        return self.table[columns].to_numpy(dtype=float)

    def integrals(self, joints: Sequence[str]) -> Array:
        """The integral parts of motors, (r, motors); zero where there is none."""
        columns = [f"{joint}.integral" for joint in joints]
        return np.column_stack(
            [
                self.table[c].to_numpy(dtype=float)
                if c in self.table
                else np.zeros(len(self.table))
                for c in columns
            ]
            or [np.zeros((len(self.table), 0))]
        )

    def row_at(self, time: float | str | None = None) -> tuple[float, int]:
        """The recorded instant nearest to a time, and its row; the last one if none is given.

        Raises:
            ModelError: nothing was recorded then.
        """
        from mooring.units import to_si

        times = self.table.index.to_numpy(dtype=float)
        if not len(times):
            raise ModelError("nothing was recorded")
        if time is None:
            return float(times[-1]), len(times) - 1
        wanted = to_si(time, "time")
        row = int(np.abs(times - wanted).argmin())
        between = float(np.diff(times).max(initial=0.0)) or 1e-9
        if abs(times[row] - wanted) > between:
            raise ModelError(
                f"nothing was recorded at {wanted:g} s; the recording goes from {times[0]:g} to "
                f"{times[-1]:g} s"
            )
        return float(times[row]), row

    def signals_at(self, time: float) -> dict[str, bool]:
        """The signals of devices at a time [s], by whole name; those that never changed are left
        out."""
        return {name: value for changed, name, value in self.signals if changed <= time + 1e-9}

    def diagnose(self) -> list[RunFinding]:
        """What went wrong, the likely cause of the rest first; empty for a run without fault."""
        return list(self.findings)

    def write_csv(self, file: str | PathLike[str]) -> None:
        """Write the table as CSV with a header line, whole or not at all."""
        write_text(Path(file), self.table.to_csv(lineterminator="\n"))

    def write(self, folder: str | PathLike[str]) -> list[Path]:
        """Write everything: tables as Parquet, and recording.json, which says what they hold.

        Returns:
            The files written.
        """
        home = Path(folder)
        written = [home / "recording.parquet", home / "contacts.parquet"]
        _write_parquet(self.table, written[0])
        _write_parquet(self.contacts, written[1])
        for name, table in self.sensors.items():
            written.append(home / "sensors" / f"{name}.parquet")
            _write_parquet(table, written[-1])
        described = {
            "mooring": _FORMAT,
            "robot": self.robot,
            "complete": self.complete,
            "notes": self.notes,
            "findings": [finding.described() for finding in self.findings],
            "limits": {k: (v if np.isfinite(v) else None) for k, v in self.limits.items()},
            "units": self.units,
            "modes": self.modes,
            "drives": {joint: drive.described() for joint, drive in self.drives.items()},
            "signals": self.signals,
            "coordinates": self.coordinates,
            "freedoms": self.freedoms,
            "sensors": list(self.sensors),
            "columns": self.columns,
            "ground": None if self.ground is None else self.ground.model_dump(),
        }
        if self.end is not None:
            written.append(home / END_FILE)
            self.end.write(written[-1])
        written.append(home / "recording.json")
        write_text(written[-1], json.dumps(described, indent=1, ensure_ascii=False) + "\n")
        return written

    @staticmethod
    def read(folder: str | PathLike[str]) -> Recording:
        """Read what `write` wrote.

        Raises:
            InputError: the folder holds no recording, or one that cannot be understood.
        """
        home = Path(folder)
        home = home.parent if home.is_file() else home
        for name in ("recording.json", "recording.parquet", "contacts.parquet"):
            if not (home / name).is_file():
                raise InputError(f"{home}: no recording; a run would have written {name} there")
        try:
            said: Mapping[str, Any] = json.loads((home / "recording.json").read_text("utf-8"))
            table, contacts = (
                _read_parquet(home / f"{name}.parquet") for name in ("recording", "contacts")
            )
            sensors = {
                name: _read_parquet(home / "sensors" / f"{name}.parquet")
                for name in said["sensors"]
            }
            notes = list(said["notes"])
            return Recording(
                said["robot"],
                table,
                {k: np.inf if v is None else float(v) for k, v in said["limits"].items()},
                dict(said["units"]),
                list(said["coordinates"]),
                list(said["freedoms"]),
                contacts,
                sensors,
                dict(said["modes"]),
                {joint: Drive(**drive) for joint, drive in said["drives"].items()},
                [(float(time), str(name), bool(v)) for time, name, v in said["signals"]],
                bool(said["complete"]),
                notes,
                [RunFinding(**finding) for finding in said["findings"]],
                None if said["ground"] is None else Ground(**said["ground"]),
                _end(home / END_FILE, notes),
            )
        except (OSError, ValueError, KeyError, TypeError) as error:
            raise InputError(f"{home}: not a recording, or a broken one: {error}") from None


def _end(file: Path, notes: list[str]) -> SavedState | None:
    if not file.exists():
        return None
    try:
        return SavedState.read(file)
    except InputError as error:
        notes.append(f"the state at the end of the run cannot be used: {error}")
        return None


def _write_parquet(table: pd.DataFrame, file: Path) -> None:
    try:
        import pyarrow  # noqa: F401
    except ImportError as error:
        raise InputError(
            f"{file}: writing Parquet needs more packages: pip install '.[recordings]' ({error})"
        ) from None
    with write_whole(file) as stream:
        table.to_parquet(stream)


def _read_parquet(file: Path) -> pd.DataFrame:
    import pandas as pd

    return pd.read_parquet(file)
