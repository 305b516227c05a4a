"""What live plots are drawn from: the latest values of a simulation, thinned as they grow."""

from __future__ import annotations

from collections.abc import Sequence

from mooring.simulation.playing import Moment

_MOST = 4000
"""Instants; when there are more, every second one is dropped."""
_BETWEEN = 0.02
"""Simulated time between two instants, at first [s]."""


def column_of(coordinate: str) -> str:
    """What a recording's table calls the position of a coordinate."""
    return coordinate if "." in coordinate else f"{coordinate}.position"


class Traces:
    """Values over time, by the names of a recording's columns."""

    def __init__(self, coordinates: Sequence[str]) -> None:
        self.names = [column_of(name) for name in coordinates]
        self.number = 0
        self._begin()

    def _begin(self) -> None:
        self.times: list[float] = []
        self.values: dict[str, list[float]] = {}
        self.between = _BETWEEN
        self.number += 1

    def add(self, moment: Moment) -> None:
        """Take note of a moment, if enough time has passed since the last."""
        if self.times and moment.time < self.times[-1]:
            self._begin()
        if self.times and moment.time < self.times[-1] + self.between - 1e-9:
            return
        self.times.append(moment.time)
        said = dict(zip(self.names, moment.q.tolist(), strict=True)) | moment.values
        for name, value in said.items():
            self.values.setdefault(name, []).append(value)
        if len(self.times) > _MOST:
            self.between *= 2
            self.times = self.times[::2]
            self.values = {name: row[::2] for name, row in self.values.items()}
        self.number += 1

    def of(self, name: str, most: int) -> list[list[float]]:
        """Times and values of a quantity, (k, 2), so many at most."""
        row = self.values.get(name, [])
        every = max(1, len(row) // most)
        return [[t, v] for t, v in zip(self.times[::every], row[::every], strict=False)]
