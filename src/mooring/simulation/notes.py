"""What a finished run has to say about itself."""

from __future__ import annotations

import numpy as np

from mooring.simulation.recording import Recording
from mooring.tree import Tree
from mooring.units import show

_AT_THE_LIMIT = 0.999


def notes_on(recording: Recording, tree: Tree) -> list[str]:
    """Saturated motors and joints beyond or at their stops, in words."""
    if recording.table.empty:
        return []
    return [*_saturated(recording, tree), *_at_stops(recording, tree)]


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


def _at_stops(recording: Recording, tree: Tree) -> list[str]:
    notes = []
    for k, joint in enumerate(tree.coordinates):
        position = recording.table[f"{joint}.position"]
        kind = "angle" if _turns(tree, joint) else "length"
        for side, stop, beyond in (
            ("lower", tree.joints.lower[k], tree.joints.lower[k] - position),
            ("upper", tree.joints.upper[k], position - tree.joints.upper[k]),
        ):
            there = beyond >= -1e-6
            if joint in recording.limits:
                # A motor told to go to the stop is no news.
                there &= (recording.table[f"{joint}.target"] - stop).abs() > 1e-3
            if not np.isfinite(stop) or not there.any():
                continue
            worst = beyond[there].max()
            how = f"went {show(worst, kind)} beyond" if worst > 1e-3 else "reached"
            notes.append(
                f"{joint} {how} its {side} stop at {show(stop, kind)}, "
                f"first at {there.idxmax():.2f} s"
            )
    return notes


def _turns(tree: Tree, joint: str) -> bool:
    return tree.motions[tree.coordinate(joint)] == "rotation"
