"""`Batch`: many copies of a simulation stepped together, arrays in and arrays out."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from mooring._native import simulation as kernels
from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array
from mooring.simulation.sensing.build import generator_for, measured
from mooring.simulation.simulation import Simulation
from mooring.threads import most_threads

Mask = NDArray[np.bool_]


class Batch:
    """Many copies of a simulation.

    What happens in Python between two steps of a single one does not happen here: motions, events,
    devices, grips that look for something, controllers.

    Attributes:
        count: how many.
        readings: names of what is read: `slew.position`, `slew.velocity`, `slew.effort`, `base.z`,
            `base.vx`, `hull_imu.force.x`.
        tellings: names of what motors are told: `slew.position`, `slew.velocity`, `slew.effort`.
        simulation: the first, as it was.

    Example:
        >>> from mooring import demo, read
        >>> first = Simulation(read(demo.LINE_TENDER.document), posture="stowed")
        >>> batch = Batch(first, 8, ["slew.position"], ["slew.position"])
        >>> batch.tell(np.linspace(0, 0.1, 8)[:, None])
        >>> bool(batch.run(200).any()), batch.read().shape
        (False, (8, 1))
    """

    def __init__(
        self,
        simulation: Simulation,
        count: int,
        readings: Sequence[str],
        tellings: Sequence[str],
        *,
        threads: int | None = None,
    ) -> None:
        """Copy a simulation as it is.

        Args:
            simulation: of which.
            count: how many.
            readings, tellings: see the class.
            threads: that may work on them; as many as there are cores if not given.

        Raises:
            ModelError: there is nothing of such a name, or it cannot be read or told in a batch.
        """
        if count < 1:
            raise ModelError(f"there must be at least one copy, got {count}")
        self.simulation, self.count = simulation, count
        self.readings, self.tellings = tuple(readings), tuple(tellings)
        self._sensors: dict[str, slice] = {}
        self._picks: list[tuple[str, int]] = []
        rows: list[tuple[int, int, int]] = []
        for name in readings:
            self._add_reading(name, rows)
        told = np.array([self._telling(name) for name in tellings], dtype=np.int64).reshape(-1, 2)
        self._native = kernels.Batch(
            simulation.native, count, threads or most_threads(),
            np.array(rows, dtype=np.int64).reshape(-1, 3), told,
        )  # fmt: skip
        self._start = simulation.native.save()
        self._raw = np.zeros((count, len(rows)))
        self.seed(simulation.seed)
        self._all = np.ones(count, dtype=bool)
        self._exploded = np.zeros(count, dtype=bool)

    def seed(self, seed: int) -> None:
        """Let the noise of sensors begin anew."""
        sensors = self.simulation.robot.sensors
        self._noise = {name: generator_for(sensors[name], seed) for name in self._sensors}

    def _add_reading(self, name: str, rows: list[tuple[int, int, int]]) -> None:
        simulation = self.simulation
        tree, robot = simulation.tree, simulation.robot
        joint, _, what = name.rpartition(".")
        sensor = next((s for s in robot.sensors if name.startswith(f"{s}.")), None)
        if name in tree.coordinates and name not in robot.joints:
            rows.append((kernels.READING_CODES["position"], tree.coordinate(name), 0))
        elif name in tree.freedoms and name not in robot.joints:
            rows.append((kernels.READING_CODES["velocity"], tree.freedom(name), 0))
        elif joint in tree.coordinates and what == "position":
            rows.append((kernels.READING_CODES["position"], tree.coordinate(joint), 0))
        elif joint in tree.freedoms and what == "velocity":
            rows.append((kernels.READING_CODES["velocity"], tree.freedom(joint), 0))
        elif joint in simulation.drives and what == "effort":
            rows.append((kernels.READING_CODES["effort"], simulation.drives[joint].motor, 0))
        elif sensor is not None:
            self._add_sensor(sensor, name.removeprefix(f"{sensor}."), rows)
            return
        else:
            known = [f"{j}.{q}" for j in tree.freedoms for q in ("position", "velocity", "effort")]
            known += [*tree.coordinates, *tree.freedoms]
            raise ModelError(f"nothing that can be read is called {name!r}"
                             f"{did_you_mean(name, known)}")  # fmt: skip
        self._picks.append(("", len(rows) - 1))

    def _add_sensor(self, name: str, column: str, rows: list[tuple[int, int, int]]) -> None:
        robot = self.simulation.robot
        sensor = robot.sensors[name]
        if sensor.looks:
            raise ModelError(f"a {sensor.kind_name} such as {name!r} cannot be read in a batch")
        if sensor.latency:
            raise ModelError(
                f"sensor {name!r} has a latency, which a batch does not keep; take it away, or "
                "read what it measures"
            )
        columns = list(sensor.columns({}))
        if column not in columns:
            raise ModelError(
                f"sensor {name!r} does not measure {column!r}{did_you_mean(column, columns)}"
            )
        if name not in self._sensors:
            number = list(robot.sensors).index(name)
            width = self.simulation.native.widths[number]
            self._sensors[name] = slice(len(rows), len(rows) + width)
            rows.extend((kernels.READING_CODES["sensor"], number, k) for k in range(width))
        self._picks.append((name, columns.index(column)))

    def _telling(self, name: str) -> tuple[int, int]:
        joint, _, what = name.rpartition(".")
        if what not in kernels.COMMAND_CODES:
            raise ModelError(f"{name!r} is no position, velocity or effort of a joint")
        drive = self.simulation.drive(joint)
        drive.read(what, 0.0)
        return kernels.COMMAND_CODES[what], drive.motor

    def run(self, steps: int, wanted: Mask | None = None) -> Mask:
        """Go on by time steps.

        Args:
            steps: how many.
            wanted: which go on, (count,); all if not given.

        Returns:
            Which exploded, (count,).
        """
        self._native.run(steps, self._all if wanted is None else wanted, self._exploded)
        return self._exploded.copy()

    def read(self) -> Array:
        """What is read of all, (count, readings); nan for what a sensor has not measured yet."""
        self._native.read(self._raw)
        sensors, simulation = self.simulation.robot.sensors, self.simulation
        readings = {
            name: measured(sensors[name], self._raw[:, columns], simulation.tree, self._noise[name])
            for name, columns in self._sensors.items()
        }
        found = np.empty((self.count, len(self._picks)))
        for k, (name, column) in enumerate(self._picks):
            found[:, k] = readings[name][:, column] if name else self._raw[:, column]
        return found

    def tell(self, values: Array, wanted: Mask | None = None) -> None:
        """Tell motors what to do until told otherwise.

        Args:
            values: (count, tellings).
            wanted: which are told, (count,); all if not given.

        Raises:
            ModelError: a value is not finite.
        """
        told = np.ascontiguousarray(values, dtype=float)
        if not np.isfinite(told).all():
            raise ModelError("what motors are told must be finite")
        self._native.tell(told, self._all if wanted is None else wanted)

    def begin(self, member: int, q: Array, v: Array) -> None:
        """Put one back to the start, at positions (n,) and velocities (m,); motors hold it there.

        Motors by velocity and by effort are told nothing.
        """
        self._native.begin(
            member, self._start, np.ascontiguousarray(q, dtype=float),
            np.ascontiguousarray(v, dtype=float),
        )  # fmt: skip
