"""What a finished run has to say about itself."""

from __future__ import annotations

import numpy as np

from mooring.geometry import Array
from mooring.simulation.recording import Recording
from mooring.tree import Tree
from mooring.units import show

_AT_THE_LIMIT = 0.999
# A joint that starts on its stop rests there; that is no news.
_STARTS_THERE = 1e-6


def notes_on(recording: Recording, tree: Tree, stop_time: Array, tripped: Array) -> list[str]:
    """Saturated motors and joints that ran against their stops, in words.

    Args:
        recording, tree: of the run.
        stop_time: when each lower and upper stop first pushed, (m, 2) [s]; inf for never.
        tripped: when each motor tripped, (motors,) [s]; inf for never.
    """
    if recording.table.empty:
        return []
    trips = [
        f"the motor of {joint} tripped at its largest effort at {time:.2f} s and stayed off"
        for joint, time in zip(recording.limits, tripped, strict=True)
        if np.isfinite(time)
    ]
    return [*trips, *_saturated(recording, tree), *_stopped(recording, tree, stop_time)]


def _saturated(recording: Recording, tree: Tree) -> list[str]:
    notes = []
    for joint, limit in recording.limits.items():
        effort = recording.table[f"{joint}.effort"].abs()
        over = effort >= _AT_THE_LIMIT * limit
        if over.any():
            share = 100 * over.mean()
            kind = "torque" if _turns(tree, joint) else "force"
            first = over.idxmax()
            notes.append(
                f"the motor of {joint} was at its limit of {show(limit, kind)} for {share:.0f}% of "
                f"the time, first at {first:.2f} s"
            )
    return notes


def _stopped(recording: Recording, tree: Tree, stop_time: Array) -> list[str]:
    notes = []
    for k, joint in enumerate(tree.freedoms):
        if tree.arrays.position[k] < 0:
            continue
        position = recording.table[f"{joint}.position"]
        kind = "angle" if _turns(tree, joint) else "length"
        stops = (("lower", tree.joints.lower[k]), ("upper", tree.joints.upper[k]))
        for (side, stop), first in zip(stops, stop_time[k], strict=True):
            if not np.isfinite(first) or abs(position.iloc[0] - stop) < _STARTS_THERE:
                continue
            beyond = float((stop - position if side == "lower" else position - stop).max())
            how = f", {show(beyond, kind)} beyond at worst" if beyond > 1e-3 else ""
            notes.append(
                f"{joint} ran against its {side} stop at {show(stop, kind)}, "
                f"first at {first:.2f} s{how}"
            )
    return notes


def _turns(tree: Tree, joint: str) -> bool:
    return tree.motions[tree.freedom(joint)] == "rotation"
