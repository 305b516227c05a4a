"""Keeps what the stepper hands over, and makes tables of it."""

from __future__ import annotations

from collections import deque
from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array
from mooring.model.sensor import CameraSensor, Encoder, RangeScanner, Sensor
from mooring.simulation.recording.diagnosis import diagnose
from mooring.simulation.recording.motor_table import Drive
from mooring.simulation.recording.recording import ENERGIES, Recording
from mooring.simulation.sensing.faults import columns_of, generator_for, worsened
from mooring.simulation.sensing.scanning import Scenery, scans
from mooring.simulation.stepping.arrays import Columns

if TYPE_CHECKING:
    import pandas as pd

    from mooring.simulation.saving import SavedState
    from mooring.simulation.simulation import Simulation

GROUND = "ground"


class Recorder:
    """The recording of a simulation while it runs."""

    def __init__(self, simulation: Simulation, keep: float) -> None:
        """Nothing recorded yet; `keep` is how much is kept [s]."""
        self.simulation = simulation
        self.keep = keep
        self.chunks: deque[Columns] = deque()
        self.sensors = list(simulation.robot.sensors.values())
        self.measured: list[deque[tuple[Array, Array]]] = [deque() for _ in self.sensors]
        self.noise = [generator_for(sensor, simulation.seed) for sensor in self.sensors]
        self._scenery: Scenery | None = None

    def take(self) -> None:
        """Take over what the compiled core has recorded so far."""
        native = self.simulation.native
        rows, measurements = native.recorded()
        if rows:
            self.chunks.append(Columns(**native.take()))
        if measurements:
            self._take_measurements()
        self._forget()

    def _take_measurements(self) -> None:
        which, times, values = self.simulation.native.measured()
        for number, sensor in enumerate(self.sensors):
            mine = np.flatnonzero(which == number)
            if len(mine):
                made = self._measurement(number, sensor, values[mine])
                self.measured[number].append((times[mine], made))

    def _measurement(self, number: int, sensor: Sensor, exact: Array) -> Array:
        """What a sensor makes of what is."""
        simulation = self.simulation
        if isinstance(sensor, CameraSensor):
            # Pictures are drawn when somebody wants them, of how everything stood.
            return exact[:, : len(simulation.tree.coordinates)]
        turns = True
        if isinstance(sensor, RangeScanner):
            if self._scenery is None:
                self._scenery = Scenery(simulation.robot, simulation.tree, simulation.ground)
            states = exact[:, : len(simulation.tree.coordinates)]
            exact = scans(sensor, self._scenery, states)
        elif isinstance(sensor, Encoder):
            turns = simulation.tree.motions[simulation.tree.freedom(sensor.joint)] == "rotation"
        return worsened(sensor, exact, self.noise[number], turns)

    def save(self) -> tuple[tuple[dict[str, Any], ...], tuple[tuple[Array, Array] | None, ...]]:
        """The state of each sensor's noise, and the latest measurements: see `SavedState`."""
        if self.simulation.native.recorded()[1]:
            self._take_measurements()
        recent: list[tuple[Array, Array] | None] = []
        for sensor, kept in zip(self.sensors, self.measured, strict=True):
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
            times, values = (np.concatenate(part) for part in zip(*pieces, strict=True))
            last = min(len(times) - 1, int(np.searchsorted(times, since)))
            recent.append((times[last:], values[last:]))
        return tuple(dict(made.bit_generator.state) for made in self.noise), tuple(recent)

    def restore(self, saved: SavedState) -> None:
        """Go on from a saved state; what was recorded after it is forgotten."""
        self.simulation.native.take()
        self.simulation.native.measured()
        step = self.simulation.settings.step
        while self.chunks and self.chunks[-1].time[0] > saved.time - 0.5 * step:
            self.chunks.pop()
        if self.chunks and self.chunks[-1].time[-1] > saved.time - 0.5 * step:
            self.chunks[-1] = _until(self.chunks[-1], saved.time - 0.5 * step)
        for number, recent in enumerate(saved.recent):
            mine = self.measured[number]
            until = saved.time - 0.5 * step
            while mine and mine[-1][0][-1] > until:
                times, values = mine.pop()
                rows = int(np.searchsorted(times, until))
                if rows:
                    mine.append((times[:rows], values[:rows]))
            if not mine and recent is not None:
                mine.append(recent)
            self.noise[number].bit_generator.state = saved.noise[number]

    def _forget(self) -> None:
        since = self.simulation.time - self.keep
        while len(self.chunks) > 1 and self.chunks[0].time[-1] < since:
            self.chunks.popleft()
        for kept in self.measured:
            while len(kept) > 1 and kept[0][0][-1] < since:
                kept.popleft()

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
        for times, values in reversed(self.measured[number]):
            there = np.flatnonzero(times + sensor.latency <= now + 1e-9)
            if len(there):
                return float(times[there[-1]]), values[there[-1]]
        return None

    def latest(self, name: str, now: float) -> dict[str, float] | None:
        """The newest measurement of a sensor that has arrived; None before any has."""
        newest = self.newest(name, now)
        if newest is None:
            return None
        columns = columns_of(self.simulation.robot.sensors[name])
        return {"time": newest[0], **dict(zip(columns, newest[1].tolist(), strict=False))}

    def forces(self) -> Array:
        """Of contacts in the newest recorded instant, (k, 6): where [m], and on the second [N]."""
        self.take()
        if not self.chunks:
            return np.zeros((0, 6))
        chunk = self.chunks[-1]
        return chunk.force[chunk.touching[:, 0] == len(chunk.time) - 1, :6]

    def recording(self) -> Recording:
        """Everything so far, with names."""
        import pandas as pd

        self.take()
        simulation = self.simulation
        robot, tree = simulation.robot, simulation.tree
        whole = self._joined()
        data: dict[str, Array] = {}
        units: dict[str, str] = {}
        jointed = [name for name in tree.freedoms if name in tree.coordinates]
        for k, name in enumerate(tree.coordinates):
            data[f"{name}.position" if name in jointed else name] = whole.position[:, k]
        for k, name in enumerate(tree.freedoms):
            data[f"{name}.velocity" if name in jointed else name] = whole.velocity[:, k]
            if name in jointed:
                units[name] = "rad" if tree.motions[k] == "rotation" else "m"
        limits = {}
        modes = {motor.joint: motor for motor in robot.motors.values()}
        for m, joint in enumerate(simulation.driven):
            by_speed = modes[joint].mode == "velocity"
            data[f"{joint}.target"] = whole.target[:, 2 * m + int(by_speed)]
            data[f"{joint}.effort"] = whole.effort[:, m]
            if modes[joint].i:
                data[f"{joint}.integral"] = whole.integral[:, m]
            limits[joint] = float(simulation.motors.effort[m])
        for k, name in enumerate(ENERGIES):
            data[f"energy.{name}"] = whole.energy[:, k]
        data["loops.gap"] = whole.gap
        index = pd.Index(whole.time, name="time")
        recording = Recording(
            robot.name,
            pd.DataFrame(data, index=index),
            limits,
            units,
            list(tree.coordinates),
            list(tree.freedoms),
            self._contacts(),
            {
                sensor.name: self._measurements(number, sensor)
                for number, sensor in enumerate(self.sensors)
            },
            drives={joint: Drive.of(modes[joint]) for joint in simulation.driven},
            modes={joint: modes[joint].mode for joint in simulation.driven},
            signals=list(simulation.devices.changes),
            complete=not simulation.ended,
            ground=simulation.ground,
            notes=[
                *([simulation.ended] if simulation.ended else []),
                *simulation.plan.notes,
                *_assumed(simulation),
            ],
            end=simulation.end or simulation.save(),
        )
        recording.findings = diagnose(simulation, recording)
        return recording

    def _joined(self) -> Columns:
        """All chunks in one."""
        if not self.chunks:
            return Columns(**self.simulation.native.take())
        joined = [np.concatenate(arrays) for arrays in zip(*self.chunks, strict=True)]
        return Columns._make(joined)

    def _contacts(self) -> pd.DataFrame:
        import pandas as pd

        names = ("time", "first", "second", "x", "y", "z", "fx", "fy", "fz", "gap")
        rows: dict[str, list[Array]] = {name: [] for name in names}
        # The ground, -1, is the last.
        links = np.array([*self.simulation.tree.links, GROUND], dtype=object)
        for chunk in self.chunks:
            if len(chunk.touching):
                row, first, second = chunk.touching.T
                rows["time"].append(chunk.time[row])
                rows["first"].append(links[first])
                rows["second"].append(links[second])
                for k, name in enumerate(names[3:]):
                    rows[name].append(chunk.force[:, k])
        return pd.DataFrame(
            {name: np.concatenate(parts) if parts else np.array([]) for name, parts in rows.items()}
        )

    def _measurements(self, number: int, sensor: Sensor) -> pd.DataFrame:
        import pandas as pd

        kept = self.measured[number]
        columns = columns_of(sensor)
        if isinstance(sensor, CameraSensor):
            columns = list(self.simulation.tree.coordinates)
        times = np.concatenate([np.zeros(0), *(t for t, _ in kept)])
        values = np.concatenate([np.zeros((0, len(columns))), *(v for _, v in kept)])
        table = pd.DataFrame(values, columns=columns, index=pd.Index(times, name="time"))
        table.insert(0, "arrives", times + sensor.latency)
        return table


def _until(columns: Columns, time: float) -> Columns:
    """The rows up to a time."""
    rows = int(np.searchsorted(columns.time, time))
    mine = columns.touching[:, 0] < rows
    kept = {name: getattr(columns, name)[:rows] for name in Columns._fields}
    return Columns(**(kept | {"touching": columns.touching[mine], "force": columns.force[mine]}))


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
