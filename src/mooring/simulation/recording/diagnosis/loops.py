"""Couplings and closures: pulled open, seized, or driven against each other."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np
from scipy.linalg import null_space

from mooring.geometry import Array
from mooring.kinematics import loop_freedoms
from mooring.kinematics.loops import loop_jacobian
from mooring.simulation.recording.diagnosis.traces import traces
from mooring.simulation.recording.finding import RunFinding
from mooring.units import show

if TYPE_CHECKING:
    from mooring.simulation.recording.recording import Recording
    from mooring.simulation.simulation import Simulation


def open_loops(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """A coupling or closure pulled open."""
    gap, since, which = simulation.watch.gap
    if gap > 2e-3:
        table = recording.table
        row = min(int(np.searchsorted(table.index, since)), len(table) - 1)
        tied = loop_freedoms(simulation.tree)
        where = ", ".join(
            f"{name} {table[f'{name}.position'].iloc[row]:.3g} {recording.units[name]}"
            for name, held in zip(simulation.tree.freedoms, tied, strict=True)
            if held and name in recording.driven
        )
        yield RunFinding(
            "loop-open", "loops", float(since),
            f"{simulation.tree.loop_names[int(which)]} was open by {show(gap, 'length', 3)} at "
            f"{since:.2f} s"
            + (f" ({where})" if where else ""),
            "two motors may drive the loop against each other, or it cannot reach the posture",
            65,
        )  # fmt: skip


def fights(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Motors that push against each other through a loop: more of them than it has freedoms."""
    tree = simulation.tree
    tied = loop_freedoms(tree)
    mine = [
        trace for trace in traces(simulation, recording)
        if tied[tree.freedom(trace.joint)] and not trace.motor.control.open_loop
    ]  # fmt: skip
    if len(mine) < 2:
        return
    jacobian = loop_jacobian(tree, recording.positions()[-1])
    free = null_space(jacobian, rcond=1e-6)
    driven = free[[tree.freedom(trace.joint) for trace in mine]]
    # Efforts that no motion of the loop feels.
    inner = null_space(driven.T, rcond=1e-6) if driven.size else np.eye(len(mine))
    if not inner.shape[1]:
        return
    late = mine[0].late
    efforts = np.array([trace.effort[late] for trace in mine])
    wasted = inner @ (inner.T @ efforts)
    for group in _groups(inner):
        share = np.abs(wasted[group]).mean(axis=1)
        whole = np.abs(efforts[group]).mean(axis=1)
        limits = np.array([mine[k].limit for k in group])
        fighting = [
            k for k, w, e, limit in zip(group, share, whole, limits, strict=True)
            if w > 0.5 * e and w > (0.02 * limit if np.isfinite(limit) else 1e-6)
        ]  # fmt: skip
        if len(fighting) < 2:
            continue
        names = " and ".join(mine[k].joint for k in fighting)
        worst = max(fighting, key=lambda k: float(np.abs(wasted[k]).mean()))
        size = show(float(np.abs(wasted[worst]).mean()), mine[worst].effort_kind, 3)
        yield RunFinding(
            "motors-fight", names, float(mine[0].time[late[0]]),
            f"the motors of {names} push against each other through a closed loop, with {size} "
            "that moves nothing",
            "drive the loop by one of them, or give the others mode: effort; if all shall, their "
            "targets must fit each other",
            89,
        )  # fmt: skip


def _groups(inner: Array) -> list[list[int]]:
    """Motors that have to do with each other: those that share a direction."""
    together = np.abs(inner @ inner.T) > 1e-6
    left, found = set(range(len(inner))), []
    while left:
        group, waiting = set(), [left.pop()]
        while waiting:
            k = waiting.pop()
            group.add(k)
            waiting += [int(j) for j in np.flatnonzero(together[k]) if int(j) in left]
            left -= set(waiting)
        found.append(sorted(group))
    return found


def seized(simulation: Simulation, _: Recording) -> Iterator[RunFinding]:
    """Loops whose pins are too far out of line to be taken for parallel."""
    nearly = simulation.native.repeating[1]
    # A loop at a dead point looks the same for a moment, and moves all the same.
    if nearly and float(np.abs(simulation.native.v[loop_freedoms(simulation.tree)]).max()) < 1e-3:
        yield RunFinding(
            "loop-seized", "loops", 0.0,
            f"closed loops hold {nearly} more directions than they need, by pins that are out of "
            "line by more than 5 mrad or 0.5%: they do not move",
            "align the pins (place them on the same bore), or hold less: a ball, not a hinge",
            90,
        )  # fmt: skip
