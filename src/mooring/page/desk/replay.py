"""A recording that is looked through: shown at one of its instants, or played."""

from __future__ import annotations

import math

import numpy as np

from mooring.geometry import Array
from mooring.simulation import Recording

_FASTEST = 20.0
"""Times real time, for a recording that is to play as fast as it goes."""


class Replay:
    """Where one is in a recording.

    Attributes:
        recording: with one instant, or more.
        times: of its instants, (r,) [s].
        instant: which is shown.
        playing: whether time goes on.
        speed: times real time.
    """

    def __init__(self, recording: Recording) -> None:
        self.recording = recording
        self.times: Array = recording.table.index.to_numpy(dtype=float)
        self._states = recording.positions()
        self._contacts = np.asarray(
            recording.contacts[["time", "x", "y", "z", "fx", "fy", "fz"]], dtype=float
        )
        self.playing, self.speed = False, 1.0
        self.show(0)

    def show(self, number: int) -> None:
        """Show an instant; the nearest there is."""
        self.instant = min(max(number, 0), len(self.times) - 1)
        self._now = self.time

    @property
    def time(self) -> float:
        """Of the instant that is shown [s]."""
        return float(self.times[self.instant])

    @property
    def q(self) -> Array:
        """How everything stands, (n,)."""
        return np.asarray(self._states[self.instant])

    def forces(self) -> Array:
        """Of contacts, (k, 6): where [m], and on the second [N]."""
        clock = self._contacts[:, 0]
        first, last = np.searchsorted(clock, [self.time - 1e-9, self.time + 1e-9])
        return np.asarray(self._contacts[first:last, 1:])

    def pass_time(self, seconds: float) -> None:
        """Go on, if it plays; at the end it begins anew."""
        if not self.playing:
            return
        now = self._now + seconds * (self.speed if math.isfinite(self.speed) else _FASTEST)
        now = now if now <= self.times[-1] else float(self.times[0])
        self.show(int(np.searchsorted(self.times, now, side="right")) - 1)
        # An instant lies a little earlier; what is owed must not be lost.
        self._now = now

    def trace(self, quantity: str, most: int) -> list[list[float]]:
        """Times and values of a column of its table, so many at most."""
        table = self.recording.table
        if quantity not in table:
            return []
        thin = table[quantity].iloc[:: max(1, len(table) // most)]
        return [[float(t), float(v)] for t, v in zip(thin.index, thin, strict=True)]
