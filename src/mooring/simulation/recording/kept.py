"""What was recorded and is in memory."""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence

import numpy as np

from mooring.geometry import Array
from mooring.simulation.stepping.arrays import Columns

Measured = tuple[Array, Array]
"""When measurements were taken [s], and their numbers, a row each."""


class Kept:
    """Rows and measurements, in the pieces in which they came.

    Attributes:
        chunks: rows.
        measured: of each sensor.
    """

    def __init__(self, sensors: int) -> None:
        self.chunks: deque[Columns] = deque()
        self.measured: list[deque[Measured]] = [deque() for _ in range(sensors)]

    def add(self, columns: Columns | None, measured: Sequence[Measured | None]) -> None:
        """Take over rows, and of each sensor what it has measured."""
        if columns is not None:
            self.chunks.append(columns)
        for kept, new in zip(self.measured, measured, strict=True):
            if new is not None:
                kept.append(new)

    def cut(self, time: float) -> None:
        """Forget what was recorded from a time on [s]."""
        while self.chunks and self.chunks[-1].time[-1] >= time:
            rows = _until(self.chunks.pop(), time)
            if len(rows.time):
                self.chunks.append(rows)
        for measured in self.measured:
            while measured and measured[-1][0][-1] >= time:
                times, values = measured.pop()
                rest = int(np.searchsorted(times, time))
                if rest:
                    measured.append((times[:rest], values[:rest]))

    def forget(self, before: float) -> None:
        """Forget pieces that end before a time [s]; the last of each stays."""
        while len(self.chunks) > 1 and self.chunks[0].time[-1] < before:
            self.chunks.popleft()
        for measured in self.measured:
            while len(measured) > 1 and measured[0][0][-1] < before:
                measured.popleft()


def _until(columns: Columns, time: float) -> Columns:
    """The rows before a time."""
    rows = int(np.searchsorted(columns.time, time))
    mine = columns.touching[:, 0] < rows
    kept = {name: getattr(columns, name)[:rows] for name in Columns._fields}
    return Columns(**(kept | {"touching": columns.touching[mine], "force": columns.force[mine]}))
