"""What was recorded of each motor, as arrays."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from mooring.geometry import Array
from mooring.model import Motor
from mooring.tree.arrays import Indices

if TYPE_CHECKING:
    from mooring.simulation.recording.recording import Recording
    from mooring.simulation.simulation import Simulation

OFF = {"rad": 0.02, "m": 0.005}
"""How far off its target a motor may rest."""


@dataclass(frozen=True)
class Trace:
    """A motor in a run; arrays are (instants,).

    Attributes:
        motor: which.
        number: its place among those that are on.
        time: [s].
        target: of its position, or of its velocity if it is driven by velocity.
        position, velocity, effort: of its joint [rad or m, rad/s or m/s, N m or N].
        limit: of its effort, inf where there is none.
        turns: whether its joint turns.
    """

    motor: Motor
    number: int
    time: Array
    target: Array
    position: Array
    velocity: Array
    effort: Array
    limit: float
    turns: bool

    @property
    def joint(self) -> str:
        return self.motor.joint

    @property
    def kind(self) -> str:
        """Of its position."""
        return "angle" if self.turns else "length"

    @property
    def rate_kind(self) -> str:
        return "angular velocity" if self.turns else "velocity"

    @property
    def effort_kind(self) -> str:
        return "torque" if self.turns else "force"

    @property
    def allowed(self) -> float:
        """How far off its target it may rest."""
        return OFF["rad" if self.turns else "m"]

    @property
    def late(self) -> Indices:
        """The instants of the last fifth of the run, and no less than the last 0.1 s."""
        last = self.time[-1]
        since = last - max(0.2 * (last - self.time[0]), 0.1)
        return np.flatnonzero(self.time >= since)

    @property
    def rests(self) -> bool:
        """Whether the joint stands still at the end."""
        return float(np.abs(self.velocity[self.late]).max()) < 0.05


class Press(NamedTuple):
    """A contact that pushes.

    Attributes:
        first, second: links; the first may be the ground.
        point: (3,) [m]
        force: on the second, (3,) [N].
    """

    first: str
    second: str
    point: Array
    force: Array


def last_presses(recording: Recording) -> list[Press]:
    """The contacts of the last instant at which anything pushed on anything."""
    contacts = recording.contacts
    if not len(contacts):
        return []
    now = contacts[np.isclose(contacts["time"], contacts["time"].max())]
    numbers = now[["x", "y", "z", "fx", "fy", "fz"]].to_numpy(dtype=float)
    return [
        Press(str(first), str(second), row[:3], row[3:])
        for first, second, row in zip(now["first"], now["second"], numbers, strict=True)
    ]


def at_stop(simulation: Simulation, trace: Trace) -> bool:
    """Whether a joint stands at one of its stops at the end."""
    freedom = simulation.tree.freedom(trace.joint)
    joints = simulation.tree.joints
    last = float(trace.position[-1])
    return bool(min(last - joints.lower[freedom], joints.upper[freedom] - last) < 1e-3)


def traces(simulation: Simulation, recording: Recording) -> Iterator[Trace]:
    """All motors that are on."""
    by_joint = {motor.joint: motor for motor in simulation.robot.motors.values()}
    table = recording.table
    for number, joint in enumerate(recording.driven):
        target, position, velocity, effort = (
            table[f"{joint}.{what}"].to_numpy(dtype=float)
            for what in ("target", "position", "velocity", "effort")
        )
        yield Trace(
            by_joint[joint], number, table.index.to_numpy(dtype=float), target, position, velocity,
            effort, recording.limits[joint], recording.units[joint] == "rad",
        )  # fmt: skip


def effort_kind(recording: Recording, joint: str) -> str:
    """What a joint's effort is."""
    return "torque" if recording.units[joint] == "rad" else "force"
