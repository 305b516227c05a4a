"""How near links came to each other in a run."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from mooring.kinematics.overlaps import clearances_along, pairs_of
from mooring.model import Robot
from mooring.simulation.recording.columns import in_units

if TYPE_CHECKING:
    import pandas as pd

    from mooring.simulation.recording.recording import Recording

NEAR = 0.05
"""Farther apart is near to nothing [m]."""
_MOST = 20_000_000
"""Pairs at instants that are looked at; more would take longer than the run."""


def clearance_table(robot: Robot, recording: Recording) -> tuple[pd.DataFrame, int]:
    """How near links came to each other, the nearest first.

    Args:
        robot: everything that was recorded.
        recording: of the run.

    Returns:
        One row a pair that came nearer than `NEAR`: first, second, distance [m] (less than zero is
        how deep they overlapped), time [s]; and of how many recorded instants one was looked at.
    """
    import pandas as pd

    pairs = len(pairs_of(robot).judged)
    every = max(1, math.ceil(pairs * len(recording.table) / _MOST))
    passes = clearances_along(robot, recording.positions()[::every], beyond=NEAR)
    times = recording.table.index[::every]
    rows = [
        (one.clearance.first, one.clearance.second, one.clearance.distance, float(times[one.row]))
        for one in passes
    ]
    units = {"first": "", "second": "", "distance": "m", "time": "s"}
    return in_units(pd.DataFrame(rows, columns=list(units)), units), every
