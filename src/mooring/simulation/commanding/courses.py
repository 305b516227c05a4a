"""Courses: where motors are to go over time, told while the simulation runs."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mooring.errors import ModelError, told
from mooring.geometry import Array
from mooring.units import to_si

if TYPE_CHECKING:
    from mooring.simulation.commanding.drives import Drive
    from mooring.simulation.simulation import Simulation

_PEAK = 15 / 8
"""The largest speed of a quintic way of length 1 that takes 1 s."""
_SHORTEST = 0.05
"""[s]"""
_QUINTIC = np.array([0.0, 0.0, 0.0, 10.0, -15.0, 6.0])


@dataclass(frozen=True)
class Course:
    """A target that moves: polynomials of the time since the beginning of each piece.

    Attributes:
        starts: of each piece, (k,) [s], in simulated time.
        end: of the last piece [s]; inf for one without end.
        pieces: (k, 6), the constant first.
    """

    starts: Array
    end: float
    pieces: Array

    def at(self, time: float) -> tuple[float, float]:
        """Position and velocity; at rest before the beginning and after the end."""
        piece = max(0, int(np.searchsorted(self.starts, time + 1e-12, side="right")) - 1)
        inside = min(max(time, self.starts[0]), self.end) - self.starts[piece]
        place = speed = 0.0
        for c in self.pieces[piece][::-1].tolist():
            speed = speed * inside + place
            place = place * inside + c
        return place, speed if self.starts[0] <= time < self.end else 0.0


def straight(begin: float, first: float, goal: float, span: float) -> Course:
    """From rest to rest, smoothly: a quintic."""
    powers = np.array([span**-k for k in range(6)])
    piece = (goal - first) * _QUINTIC * powers
    piece[0] += first
    return Course(np.array([begin]), begin + span, piece[None])


def rolling(begin: float, first: float, speed: float) -> Course:
    """At constant speed, without end."""
    return Course(np.array([begin]), math.inf, np.array([[first, speed, 0.0, 0.0, 0.0, 0.0]]))


def through(begin: float, rows: Sequence[tuple[float, float]]) -> Course:
    """Through positions at times after `begin`, without overshooting (Fritsch and Butland 1984)."""
    from scipy.interpolate import PchipInterpolator

    times, places = np.array(rows, dtype=float).T
    curve = PchipInterpolator(times, places)
    pieces = np.zeros((len(times) - 1, 6))
    pieces[:, :4] = curve.c[::-1].T
    return Course(begin + times[:-1], begin + float(times[-1]), pieces)


class Courses:
    """The courses that motors of a simulation are on.

    Attributes:
        on: by joint.
    """

    def __init__(self, simulation: Simulation) -> None:
        """None yet."""
        self._simulation = simulation
        self.on: dict[str, Course] = {}

    def save(self) -> dict[str, tuple[list[float], float, list[list[float]]]]:
        """For `restore`."""
        return {j: (c.starts.tolist(), c.end, c.pieces.tolist()) for j, c in self.on.items()}

    def restore(self, saved: Mapping[str, tuple[list[float], float, list[list[float]]]]) -> None:
        """Go back, or on, to what was saved."""
        self.on = {
            joint: Course(np.array(starts), end, np.array(pieces))
            for joint, (starts, end, pieces) in saved.items()
        }

    def now(self, joint: str) -> float:
        """Where a motor was last told to be; where its joint is if it was not told by command."""
        simulation = self._simulation
        drive, commands = simulation.drives[joint], simulation.commands
        if commands.held[drive.motor] and not commands.relaxed[drive.motor]:
            return float(commands.position[drive.motor])
        return float(simulation.native.q[drive.place])

    def go(self, positions: Mapping[str, float], over: float | None, begin: float) -> None:
        """Bring joints to positions in a time, or in the shortest that their velocities allow.

        Raises:
            ModelError: there is no time, and no velocity limit to take one from.
        """
        starts = {joint: self.now(joint) for joint in positions}
        span = over
        if span is None:
            limits = self._simulation.tree.joints.velocity
            span = _SHORTEST
            for joint, goal in positions.items():
                limit = limits[self._simulation.tree.freedom(joint)]
                if goal != starts[joint]:
                    if not (math.isfinite(limit) and limit > 0):
                        raise ModelError(
                            f"{joint!r} has no velocity limit that tells how long its way takes; "
                            "say how long"
                        )
                    span = max(span, _PEAK * abs(goal - starts[joint]) / limit)
        for joint, goal in positions.items():
            self.on[joint] = straight(begin, starts[joint], goal, span)

    def follow(self, courses: Mapping[str, Sequence[tuple[float, float]]]) -> None:
        """Let joints pass through positions at times from now on."""
        begin = self._simulation.time
        for joint, rows in courses.items():
            said = list(rows)
            if said[0][0] > 0:
                said.insert(0, (0.0, self.now(joint)))
            elif len(said) == 1:
                said.append((_SHORTEST, said[0][1]))
            self.on[joint] = through(begin, said)

    def roll(self, speeds: Mapping[str, float]) -> None:
        """Let joints run on at constant speeds, from where they are told to be."""
        begin = self._simulation.time
        for joint, speed in speeds.items():
            self.on[joint] = rolling(begin, self.now(joint), speed)

    def look(self) -> None:
        """Tell motors where to be by the end of the step to come."""
        simulation = self._simulation
        time = simulation.time
        for joint, course in list(self.on.items()):
            motor = simulation.drives[joint].motor
            commands = simulation.commands
            commands.position[motor], commands.velocity[motor] = course.at(time)
            commands.held[motor], commands.relaxed[motor] = True, False
            if time >= course.end:
                del self.on[joint]


def read_course(rows: object, drive: Drive) -> list[tuple[float, float]]:
    """Times and positions in SI, as they grow.

    Raises:
        ModelError: it is no such list.
    """
    joint = drive.joint
    wrong = f"the course of {joint!r} is a list of [time, position], with times that grow"
    if isinstance(rows, str) or not isinstance(rows, Sequence) or not rows:
        raise ModelError(f"{wrong}; got {told(rows)}")
    read: list[tuple[float, float]] = []
    for row in rows:
        if isinstance(row, str) or not isinstance(row, Sequence) or len(row) != 2:
            raise ModelError(f"{wrong}; got {told(row)}")
        try:
            time = to_si(row[0], "time")
        except ValueError as error:
            raise ModelError(f"the course of {joint!r}: {error}") from None
        place = drive.read("position", row[1])
        if time < 0 or (read and time <= read[-1][0]):
            raise ModelError(f"{wrong}, not before zero; got {told(row[0])}")
        read.append((time, place))
    return read
