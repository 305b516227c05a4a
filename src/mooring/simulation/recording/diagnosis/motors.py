"""Motors that have too little, or that something keeps from their targets."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from mooring.exercising.efforts import holding_now
from mooring.kinematics.mechanism.drivers import drivers
from mooring.simulation.recording.diagnosis.traces import at_stop, effort_kind, traces
from mooring.simulation.recording.finding import RunFinding
from mooring.tree.arrays import FLOATING
from mooring.units import show

if TYPE_CHECKING:
    from mooring.simulation.recording.recording import Recording
    from mooring.simulation.simulation import Simulation

_LONG = 0.1
"""A motor at its limit for a smaller share of the time has merely been busy."""
MISSED = "target-missed"
_LOOKS = 25
"""Instants at which the effort to hold is looked at."""


def weak(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Motors at their largest effort."""
    watch, table = simulation.watch, recording.table
    whole = float(table.index[-1] - table.index[0]) or simulation.settings.step
    for motor, joint in enumerate(recording.driven):
        kind = "torque" if recording.units[joint] == "rad" else "force"
        limit = recording.limits[joint]
        tripped = watch.tripped[motor]
        if np.isfinite(tripped):
            yield RunFinding(
                "motor-tripped", joint, float(tripped),
                f"the motor of {joint} tripped at its largest effort of {show(limit, kind)} at "
                f"{tripped:.2f} s and stayed off",
                "take a stronger one, or let it hold its limit (at_limit: hold)",
                75,
            )  # fmt: skip
            continue
        since, long, _ = watch.saturated[motor]
        if long < _LONG * whole or not np.isfinite(since):
            continue
        effort = table[f"{joint}.effort"].to_numpy(dtype=float)
        hold = _holding(simulation, recording, joint, np.abs(effort) > 0.999 * limit)
        if hold > limit:
            what = f"holding the robot there takes {show(hold, kind, 3)}"
            remedy = f"it needs {show(hold - limit, kind, 3)} more, or less to carry"
            weight = 78.0
        else:
            what = "the motion asks for more than it can give"
            remedy = "move slower, or take a stronger one"
            weight = 60.0
        yield RunFinding(
            "motor-saturated", joint, float(since),
            f"the motor of {joint} was at its limit of {show(limit, kind)} for "
            f"{100 * min(1.0, long / whole):.0f}% of the time, first at {since:.2f} s; {what}",
            remedy, weight,
        )  # fmt: skip


def _holding(
    simulation: Simulation, recording: Recording, joint: str, rows: NDArray[np.bool_]
) -> float:
    """The most that holding still takes of a motor at some instants; 0 where the base floats."""
    tree = simulation.tree
    chosen = np.flatnonzero(rows)
    if not len(chosen) or (tree.arrays.kind == FLOATING).any():
        return 0.0
    chosen = chosen[:: 1 + len(chosen) // _LOOKS]
    positions = recording.positions()[chosen]
    driven = drivers(simulation.robot, tree, positions[0])
    if joint not in driven:
        return 0.0
    efforts = holding_now(tree, driven, positions, simulation.settings.gravity)
    return float(np.abs(efforts[:, driven.index(joint)]).max())


def too_much(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Prescribed motions that take more than the motor has."""
    times = recording.table.index.to_numpy(dtype=float)
    for motor in simulation.robot.motors.values():
        joint = motor.joint
        if not motor.control.prescribes or joint not in recording.driven:
            continue
        limit, kind = recording.limits[joint], effort_kind(recording, joint)
        effort = np.abs(recording.table[f"{joint}.effort"].to_numpy(dtype=float))
        over = np.flatnonzero(effort > limit * 1.001)
        if len(over):
            yield RunFinding(
                "motion-too-strong", joint, float(times[over[0]]),
                f"the prescribed motion of {joint} takes {show(float(effort.max()), kind, 3)}, and "
                f"its motor has {show(limit, kind)}",
                "move slower, carry less, or take a stronger motor", 80,
            )  # fmt: skip


def too_hot(_: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Motors whose mean square torque is more than they can give for ever."""
    for joint, share in recording.motor_table()["of_continuous"].items():
        if share > 1.0:
            yield RunFinding(
                "motor-too-hot", str(joint), float(recording.table.index[0]),
                f"the motor of {joint} gives {100 * share:.0f}% of its continuous torque, by the "
                "root of the mean square: for ever, it would get too hot",
                "rest between, move slower, or take a larger one", 61,
            )  # fmt: skip


def too_fast(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Targets that move faster than their joint may."""
    for trace in traces(simulation, recording):
        limit = simulation.tree.joints.velocity[simulation.tree.freedom(trace.joint)]
        if trace.motor.control.tracks_velocity:
            asked = np.abs(trace.target)
        elif trace.motor.control.tracks_position and len(trace.time) > 2:
            asked = np.abs(np.gradient(trace.target, trace.time))
        else:
            continue
        over = np.flatnonzero(asked > 1.02 * limit)
        # A jump is another matter.
        if len(over) < 3:
            continue
        off = float(np.abs(trace.target - trace.position)[over].max())
        if trace.motor.control.tracks_position and off < trace.allowed:
            continue
        yield RunFinding(
            "target-too-fast", trace.joint, float(trace.time[over[0]]),
            f"the target of {trace.joint} moves at {show(float(asked.max()), trace.rate_kind, 3)}, "
            f"and the joint may at {show(float(limit), trace.rate_kind, 3)}",
            "give the step more time (or none: then it takes what the limit allows), or raise the "
            "velocity limit", 79,
        )  # fmt: skip


def sags(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Position motors that rest off their targets: held by friction, or with too little gain."""
    for trace in traces(simulation, recording):
        late = trace.late
        if trace.motor.control.open_loop or trace.time[-1] - trace.time[0] < 0.5:
            continue
        friction = float(simulation.tree.joints.friction[simulation.tree.freedom(trace.joint)])
        off = float(np.abs(trace.target - trace.position)[late].min())
        if trace.motor.control.tracks_velocity:
            off = trace.allowed + 1 if np.abs(trace.target[late]).min() > 0.05 else 0.0
        if off < trace.allowed or not trace.rests or np.ptp(trace.target[late]) > 1e-9:
            continue
        if at_stop(simulation, trace):
            continue
        most = float(np.abs(trace.effort[late]).max())
        if friction > 0 and most <= 1.001 * friction and friction >= 0.5 * min(trace.limit, 1e300):
            yield RunFinding(
                "friction-too-large", trace.joint, float(trace.time[0]),
                f"the dry friction of {trace.joint} is {show(friction, trace.effort_kind)}, and "
                f"its motor has {show(trace.limit, trace.effort_kind)}: it cannot move",
                "lower the friction, or take a stronger motor", 92,
            )  # fmt: skip
        elif trace.motor.control.tracks_position and most < 0.9 * trace.limit:
            there = show(trace.limit, trace.effort_kind) if np.isfinite(trace.limit) else "no limit"
            yield RunFinding(
                "gain-too-low", trace.joint, float(trace.time[-1]),
                f"{trace.joint} rests {show(off, trace.kind, 3)} off its target, where its motor "
                f"pushes with {show(most, trace.effort_kind, 3)} of {there}",
                f"raise p (now {trace.motor.p:g}), give it feed_forward: gravity, or an integral "
                "part", 56,
            )  # fmt: skip


def misses(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Targets that are never reached, whatever the reason."""
    for trace in traces(simulation, recording):
        late = trace.late
        if not trace.motor.control.closes_loop or trace.time[-1] < 0.5:
            continue
        got = trace.position if trace.motor.control.tracks_position else trace.velocity
        off = float(np.abs(trace.target - got)[late].min())
        scale = float(np.ptp(trace.target)) + float(np.abs(trace.target[late]).max())
        allowed = 5 * trace.allowed if trace.motor.control.tracks_position else 0.1 * scale
        if off > max(allowed, 0.1 * float(np.ptp(trace.target))):
            kind = trace.kind if trace.motor.control.tracks_position else trace.rate_kind
            yield RunFinding(
                MISSED, trace.joint, float(trace.time[late[0]]),
                f"{trace.joint} never comes to its target: at best it is {show(off, kind, 3)} off "
                "at the end",
                "look at what holds it, or give it more time", 25,
            )  # fmt: skip
