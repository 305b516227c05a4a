"""What a run leaves behind."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from os import PathLike
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from mooring import outlet
from mooring.arguments import proven_methods
from mooring.errors import ModelError
from mooring.files import write_text
from mooring.geometry import Array
from mooring.model.scene import Ground
from mooring.simulation.recording.columns import meaning
from mooring.simulation.recording.finding import RunFinding
from mooring.simulation.recording.kept import Kept
from mooring.simulation.recording.layout import Layout
from mooring.simulation.recording.motor_table import Drive, motor_table
from mooring.simulation.recording.run_folder import whole_folder
from mooring.simulation.recording.stored import read_recording, write_recording
from mooring.simulation.saving import SavedState

if TYPE_CHECKING:
    import pandas as pd


@proven_methods
@dataclass(eq=False, repr=False)
class Recording(outlet.Shown):
    """A run, by name.

    Attributes:
        robot: the robot's or scene's name.
        table: one row an instant, index "time" in seconds; `columns` says what each column holds,
            and `table.attrs["units"]`, as of every table here, in which unit.
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
        run: what all files of the run bear, once it is written.

    Example:
        >>> import mooring
        >>> swing = mooring.Robot("pendulum")
        >>> swing.add_link("frame")
        >>> swing.add_link("bob", mass="2 kg", centre=(0, 0, "-1 m"), inertia=(0.1, 0.1, 0.1))
        >>> swing.add_joint("hinge", "continuous", parent="frame", child="bob", axis="y")
        >>> run = mooring.simulate(swing, posture={"hinge": "90 deg"}, seconds=1, rate="10 Hz")
        >>> run.positions().shape, run.velocities().shape, run.integrals([]).shape
        ((11, 1), (11, 1), (11, 0))
        >>> run.row_at("0.52 s")
        (0.5, 5)
        >>> run.diagnose(), run.signals_at(0.5), len(run.motor_table())
        ([], {}, 0)

        In files: `run.write("swing")`, and `mooring.Recording.read("swing")` reads it again;
        `run.write_csv("swing.csv")` for a spreadsheet.
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
    run: str = ""

    def __repr__(self) -> str:
        rows = len(self.table)
        end = self.table.index[-1] if rows else 0.0
        found = f"{len(self.findings)} findings" if self.findings else "nothing found"
        whole = "" if self.complete else ", not complete"
        return f"<Recording of {self.robot!r}: {end:g} s, {rows:,} instants, {found}{whole}>"

    @staticmethod
    def of(layout: Layout, kept: Kept) -> Recording:
        """What was recorded, without notes and findings."""
        measured = zip(layout.sensors, kept.measured, strict=True)
        return Recording(
            layout.robot,
            layout.table(kept.chunks),
            layout.limits,
            layout.units,
            layout.coordinates,
            layout.freedoms,
            layout.contacts(kept.chunks),
            {sensor: layout.measurements(sensor, pieces) for sensor, pieces in measured},
            layout.modes,
            layout.drives,
            ground=layout.ground,
        )

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
        return {
            str(name): meaning(str(name), self.units, self.modes) for name in self.table.columns
        }

    def positions(self) -> Array:
        """q at every recorded instant, (r, n), in the order of `coordinates`."""
        columns = [f"{c}.position" if c in self.units else c for c in self.coordinates]
        return self.table[columns].to_numpy(dtype=float)

    def velocities(self) -> Array:
        """v at every recorded instant, (r, m), in the order of `freedoms`."""
        columns = [f"{c}.velocity" if c in self.units else c for c in self.freedoms]
        return self.table[columns].to_numpy(dtype=float)

    def integrals(self, joints: Sequence[str]) -> Array:
        """The integral parts of motors, (r, motors); zero where there is none.

        Args:
            joints: that the motors drive.
        """
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

        Args:
            time: [s], or with its unit.

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
        """Write the table as CSV with a header line, whole or not at all.

        Args:
            file: is replaced.

        Raises:
            InputError: it cannot be written.
        """
        write_text(Path(file), self.table.to_csv(lineterminator="\n"))

    def write(self, folder: str | PathLike[str], *, force: bool = False) -> list[Path]:
        """Write everything: tables as Parquet, and recording.json, which says what they hold.

        The folder is written whole or not at all. What others have put into it stays.

        Args:
            folder: a new or empty one, or that of an earlier run, which is replaced.
            force: write into a folder of something else, too.

        Returns:
            The files written.

        Raises:
            InputError: it cannot be written, or holds something else.
        """
        home = Path(folder)
        with whole_folder(home, force=force) as work:
            self.run = work.run
            written = write_recording(self, work.path)
        return [home / file.relative_to(work.path) for file in written]

    @staticmethod
    def read(file: str | PathLike[str]) -> Recording:
        """Read what `write` or the command `run` wrote.

        A run that was cut off is read from its journal, up to where that ends; its notes say so.

        Args:
            file: the folder of a run, its recording.json, or a journal.

        Raises:
            InputError: there is no recording, or one that cannot be understood.
        """
        return read_recording(Recording, Path(file))
