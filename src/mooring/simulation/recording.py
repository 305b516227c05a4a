"""What a run leaves behind."""

from __future__ import annotations

from dataclasses import dataclass, field
from os import PathLike
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from mooring.files import write_text
from mooring.simulation.arrays import Columns, MotorArrays
from mooring.tree import Tree

if TYPE_CHECKING:
    import pandas as pd

ENERGIES = ("kinetic", "potential", "motors", "damping", "friction")


@dataclass(eq=False)
class Recording:
    """A run, by name.

    Attributes:
        robot: the robot's name.
        table: one row an instant, index "time" in seconds. Columns: `<joint>.position` [rad or m]
            and `<joint>.velocity` for every moving joint; for what floats its coordinates, such as
            `base.x` [m] and `base.qw`, and its freedoms, such as `base.wx` [rad/s] and `base.vx`
            [m/s]; `<joint>.target` and `<joint>.effort` [N m or N] for every motor's joint;
            `energy.kinetic`, `energy.potential` (with that of springs), `energy.motors` (given by
            them so far), `energy.damping` and `energy.friction` (lost to them so far) [J];
            `loops.gap`, how far the worst coupling or closure is open.
        limits: the effort limit of each motor's joint, inf where there is none.
        units: of the position of each moving joint, rad or m.
        coordinates: of the robot, in the order of q.
        complete: whether the run reached its end.
        notes: what the run has to say: saturated motors, stops reached, why it ended early.
    """

    robot: str
    table: pd.DataFrame
    limits: dict[str, float]
    units: dict[str, str]
    coordinates: list[str]
    complete: bool = True
    notes: list[str] = field(default_factory=list)

    @property
    def joints(self) -> list[str]:
        """Names of the moving joints."""
        return list(self.units)

    @property
    def driven(self) -> list[str]:
        """Names of the joints that have a motor."""
        return list(self.limits)

    def positions(self) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
        """q at every recorded instant, (r, n), in the order of `coordinates`."""
        columns = [f"{c}.position" if c in self.units else c for c in self.coordinates]
        return self.table[columns].to_numpy(dtype=float)

    def write_csv(self, file: str | PathLike[str]) -> None:
        """Write the table as CSV with a header line, whole or not at all."""
        write_text(Path(file), self.table.to_csv(lineterminator="\n"))


def recording_of(
    robot: str, tree: Tree, motors: MotorArrays, columns: Columns, rows: int
) -> Recording:
    """The first rows of what a kernel recorded, with names."""
    import pandas as pd

    data: dict[str, object] = {}
    units: dict[str, str] = {}
    jointed = [name for name in tree.freedoms if name in tree.coordinates]
    for k, name in enumerate(tree.coordinates):
        data[f"{name}.position" if name in jointed else name] = columns.position[:rows, k]
    for k, name in enumerate(tree.freedoms):
        data[f"{name}.velocity" if name in jointed else name] = columns.velocity[:rows, k]
        if name in jointed:
            units[name] = "rad" if tree.motions[k] == "rotation" else "m"
    limits = {}
    for m, freedom in enumerate(motors.freedom):
        joint = tree.freedoms[freedom]
        data[f"{joint}.target"] = columns.target[:rows, m]
        data[f"{joint}.effort"] = columns.effort[:rows, m]
        limits[joint] = float(motors.effort[m])
    for k, name in enumerate(ENERGIES):
        data[f"energy.{name}"] = columns.energy[:rows, k]
    data["loops.gap"] = columns.gap[:rows]
    index = pd.Index(columns.time[:rows], name="time")
    return Recording(robot, pd.DataFrame(data, index=index), limits, units, list(tree.coordinates))
