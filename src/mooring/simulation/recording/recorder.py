"""Keeps what the stepper hands over, and makes tables of it."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.errors import InputError, ModelError, did_you_mean
from mooring.geometry import Array
from mooring.simulation.recording.diagnosis import diagnose
from mooring.simulation.recording.journal import Journal
from mooring.simulation.recording.kept import Kept, Measured
from mooring.simulation.recording.layout import Layout
from mooring.simulation.recording.recording import Recording
from mooring.simulation.sensing.build import generator_for, measured
from mooring.simulation.sensing.scanning import Scenery
from mooring.simulation.stepping.arrays import Columns

if TYPE_CHECKING:
    from mooring.simulation.saving import SavedState
    from mooring.simulation.simulation import Simulation

_ENOUGH = 500
"""Rows that the core may hold."""


class Recorder:
    """The recording of a simulation while it runs.

    With a journal, what has been written there is not kept in memory, but for what is on its way.

    Attributes:
        layout: what the numbers stand for.
        kept: what is in memory.
        journal: where it is appended to; None where there is none, or where that failed.
        problem: why it failed.
    """

    def __init__(self, simulation: Simulation, keep: float, journal: Path | None) -> None:
        """Nothing recorded yet.

        Args:
            simulation: what is recorded.
            keep: how much is kept [s].
            journal: a file that what is recorded is appended to.

        Raises:
            InputError: the journal cannot be written.
        """
        self.simulation = simulation
        self.keep = keep
        self.layout = Layout.of(simulation)
        self.sensors = list(simulation.robot.sensors.values())
        self.kept = Kept(len(self.sensors))
        self.noise = [generator_for(sensor, simulation.seed) for sensor in self.sensors]
        self._new: list[list[Measured]] = [[] for _ in self.sensors]
        self._unwritten: list[tuple[Columns | None, list[Measured | None]]] = []
        self.problem = ""
        self._scenery: Scenery | None = None
        self.journal = None if journal is None else Journal(journal, self.layout, keep)
        slow = [sensor.latency + 2 / sensor.rate for sensor in self.sensors]
        self._in_memory = keep if journal is None else max(slow, default=0.0)

    @property
    def due(self) -> bool:
        """Whether what the core has recorded is to be taken over."""
        in_core = self.simulation.native.recorded()[0] >= _ENOUGH
        return in_core or (self.journal is not None and self.journal.due)

    def take(self) -> None:
        """Take over what the compiled core has recorded so far."""
        native = self.simulation.native
        rows, measurements = native.recorded()
        columns = Columns(**native.take()) if rows else None
        if columns is not None:
            self.kept.chunks.append(columns)
        if measurements:
            self._take_measurements()
        if self.journal is not None:
            new = [_joined(pieces) if pieces else None for pieces in self._new]
            if columns is not None or any(new):
                self._unwritten.append((columns, new))
            if self.journal.due:
                self._write()
        for pieces in self._new:
            pieces.clear()
        self.kept.forget(self.simulation.time - self._in_memory)

    def _write(self) -> None:
        """Append to the journal; where that fails, all is kept in memory from then on."""
        if self.journal is None:
            return
        try:
            while self._unwritten:
                self.journal.append(*self._unwritten[0])
                self._unwritten.pop(0)
            self.journal.flush()
        except InputError as error:
            since = f"{self.simulation.time:g} s"
            self.problem = f"{error}; what was recorded from {since} on was kept in memory only"
            self.kept = self.journal.read().kept
            for new in self._unwritten:
                self.kept.add(*new)
            self.journal, self._in_memory = None, self.keep

    def _take_measurements(self) -> None:
        simulation = self.simulation
        which, times, values = simulation.native.measured()
        if self._scenery is None and any(sensor.looks for sensor in self.sensors):
            self._scenery = Scenery(simulation.robot, simulation.tree, simulation.ground)
        for number, sensor in enumerate(self.sensors):
            mine = np.flatnonzero(which == number)
            if len(mine):
                probed = values[mine, : simulation.native.widths[number]]
                found = measured(sensor, probed, simulation.tree, self.noise[number], self._scenery)
                new = times[mine], found
                self.kept.measured[number].append(new)
                self._new[number].append(new)

    def save(self) -> tuple[tuple[dict[str, Any], ...], tuple[tuple[Array, Array] | None, ...]]:
        """The state of each sensor's noise, and the latest measurements: see `SavedState`."""
        if self.simulation.native.recorded()[1]:
            self._take_measurements()
        recent: list[tuple[Array, Array] | None] = []
        for sensor, kept in zip(self.sensors, self.kept.measured, strict=True):
            if not kept:
                recent.append(None)
                continue
            # Those on their way, and the one before.
            since = self.simulation.time - sensor.latency - 2 / sensor.rate
            pieces = [kept[-1]]
            for piece in list(kept)[-2::-1]:
                if pieces[0][0][0] <= since:
                    break
                pieces.insert(0, piece)
            times, values = _joined(pieces)
            last = min(len(times) - 1, int(np.searchsorted(times, since)))
            recent.append((times[last:], values[last:]))
        return tuple(dict(made.bit_generator.state) for made in self.noise), tuple(recent)

    def restore(self, saved: SavedState) -> None:
        """Go on from a saved state; what was recorded after it is forgotten."""
        self.take()
        until = saved.time - 0.5 * self.simulation.settings.step
        self.kept.cut(until)
        self._write()
        if self.journal is not None:
            self.journal.back(until)
        for number, recent in enumerate(saved.recent):
            if not self.kept.measured[number] and recent is not None:
                self.kept.measured[number].append(recent)
            self.noise[number].bit_generator.state = saved.noise[number]

    def newest(self, name: str, now: float) -> tuple[float, Array] | None:
        """When the newest measurement that has arrived was taken, and its numbers; of a camera
        how everything stood."""
        names = [sensor.name for sensor in self.sensors]
        if name not in names:
            raise ModelError(f"no sensor is called {name!r}{did_you_mean(name, names)}")
        number = names.index(name)
        sensor = self.sensors[number]
        if self.simulation.native.recorded()[1]:
            self._take_measurements()
        for times, values in reversed(self.kept.measured[number]):
            there = np.flatnonzero(times + sensor.latency <= now + 1e-9)
            if len(there):
                return float(times[there[-1]]), values[there[-1]]
        return None

    def latest(self, name: str, now: float) -> dict[str, float] | None:
        """The newest measurement of a sensor that has arrived; None before any has."""
        newest = self.newest(name, now)
        if newest is None:
            return None
        columns = self.simulation.robot.sensors[name].columns({})
        return {"time": newest[0], **dict(zip(columns, newest[1].tolist(), strict=False))}

    def forces(self) -> Array:
        """Of contacts in the newest recorded instant, (k, 6): where [m], and on the second [N]."""
        self.take()
        if not self.kept.chunks:
            return np.zeros((0, 6))
        chunk = self.kept.chunks[-1]
        return chunk.force[chunk.touching[:, 0] == len(chunk.time) - 1, :6]

    def recording(self) -> Recording:
        """Everything so far, with names."""
        self.take()
        self._write()
        simulation, layout = self.simulation, self.layout
        kept = self.kept
        if self.journal is not None:
            kept = self.journal.read().kept
            kept.forget(simulation.time - self.keep)
        recording = Recording.of(layout, kept)
        recording.signals = list(simulation.devices.changes)
        recording.complete = not simulation.ended
        recording.notes = [
            *([simulation.ended] if simulation.ended else []),
            *simulation.plan.notes,
            *_assumed(simulation),
            *([self.problem] if self.problem else []),
        ]
        recording.end = simulation.end or simulation.save()
        recording.findings = diagnose(simulation, recording)
        return recording


def _joined(pieces: Sequence[Measured]) -> Measured:
    times, values = zip(*pieces, strict=True)
    return np.concatenate(times), np.concatenate(values)


def _assumed(simulation: Simulation) -> list[str]:
    """What was taken for granted."""
    said = [
        f"{name} lost {link} at {time:.3f} s: it was pulled harder than it holds"
        for time, name, link in simulation.grips.lost
    ]
    repeating = simulation.native.repeating[0]
    if not repeating:
        return said
    return [
        *said,
        f"closed loops hold {repeating} directions more than once (pins parallel within 5 mrad); "
        "each is carried where it is held first, so forces between them are not shared out",
    ]
