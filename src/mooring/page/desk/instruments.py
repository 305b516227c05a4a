"""What is told of whatever moves the model: a machine elsewhere, a simulation, a run, a hand."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.geometry import Array
from mooring.page.desk.traces import column_of

if TYPE_CHECKING:
    from mooring.page.desk.desk import Desk


class Instruments:
    """Read off a desk."""

    def __init__(self, desk: Desk) -> None:
        self._desk = desk

    def quantities(self) -> list[str]:
        """What can be plotted."""
        desk = self._desk
        if desk.recording is not None:
            return [str(name) for name in desk.recording.table.columns]
        efforts = [f"{motor.joint}.effort" for motor in desk.robot.motors.values()]
        return [*(column_of(name) for name in desk.tree.coordinates), *efforts]

    @property
    def trace_number(self) -> int:
        """Grows with whatever plots show."""
        desk = self._desk
        return desk.traces.number if desk.player is not None else desk.standing.number

    def trace(self, quantity: str, most: int) -> list[list[float]]:
        """Times and values of a quantity, so many at most."""
        replay = self._desk.replay
        source = self._desk.traces.of if replay is None else replay.trace
        return source(quantity, most)

    def forces(self) -> Array:
        """Of contacts in what is shown, (k, 6)."""
        player, replay = self._desk.player, self._desk.replay
        if player is not None:
            return player.moment().forces
        return np.zeros((0, 6)) if replay is None else replay.forces()

    def signals(self) -> dict[str, bool] | None:
        """The signals of devices in what is shown, by whole name; None where nobody knows."""
        player, replay = self._desk.player, self._desk.replay
        if player is not None:
            return player.signals()
        return None if replay is None else replay.recording.signals_at(replay.time)

    def status(self) -> dict[str, Any]:
        """What a window says of the simulation or recording it shows."""
        desk = self._desk
        if desk.follower is not None:
            return {
                "mode": "following", "time": desk.follower.time, "ended": desk.follower.problem,
                "pace": 0.0, "words": "; ".join((desk.follower.words(), *desk.unheard)),
            }  # fmt: skip
        if desk.player is not None:
            moment = desk.player.moment()
            return {
                "mode": "running" if moment.running else "paused", "time": moment.time,
                "ended": moment.ended, "pace": moment.pace, "pull": moment.pull,
            }  # fmt: skip
        if desk.replay is not None:
            return {
                "mode": "playing" if desk.replay.playing else "recording",
                "time": desk.replay.time, "ended": "", "length": float(desk.replay.times[-1]),
                "pace": 0.0,
            }  # fmt: skip
        return {"mode": "posing", "time": 0.0, "ended": "", "pace": 0.0}
