"""Control that swings: gains, signs, rates, and readings that come late; targets that jump."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np

from mooring.geometry import Array
from mooring.simulation.recording.diagnosis.traces import Trace, traces
from mooring.simulation.recording.finding import RunFinding
from mooring.units import show

if TYPE_CHECKING:
    from mooring.simulation.recording.recording import Recording
    from mooring.simulation.simulation import Simulation


_PURE = 0.5
"""The share of a swing's power that is at its frequency."""


def gains(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Efforts that swing from one end to the other: gains too high for their rate."""
    table = recording.table
    times = table.index.to_numpy(dtype=float)
    for joint, limit in recording.limits.items():
        effort = table[f"{joint}.effort"].to_numpy(dtype=float)
        speed = table[f"{joint}.velocity"].to_numpy(dtype=float)
        scale = limit if np.isfinite(limit) else np.abs(effort).max(initial=0.0)
        large = np.abs(effort) > 0.2 * scale
        turns = (effort[1:] * effort[:-1] < 0) & large[1:] & large[:-1]
        swings = (speed[1:] * speed[:-1] < 0) & large[1:]
        if len(turns) > 10 and scale > 0 and min(turns.mean(), 2 * swings.mean()) > 0.2:
            h = simulation.settings.step
            yield RunFinding(
                "gains-unstable", joint, float(times[np.flatnonzero(turns)[0]]),
                f"the effort of {joint} swings from one side to the other {turns.sum()} times",
                f"its gains are too high for steps of {1e3 * h:g} ms and how often its controller "
                "is called: lower them, call it more often, or give the gains to the motor, which "
                "takes them implicitly",
                85,
            )  # fmt: skip


def wrong_sign(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Feedback that drives its joint away: effort that grows with the way, until it runs off."""
    for trace in traces(simulation, recording):
        if not trace.motor.control.open_loop or len(trace.time) < 10:
            continue
        # What holds a weight up grows with the way as well, and comes to rest.
        if trace.rests and abs(trace.effort[-1]) < 0.99 * trace.limit:
            continue
        free = np.abs(trace.effort) < 0.99 * trace.limit
        rows = np.flatnonzero(np.cumprod(free))
        if len(rows) < 5 or np.ptp(trace.position[rows]) < trace.allowed:
            continue
        known = np.column_stack([np.ones(len(rows)), trace.position[rows], trace.velocity[rows]])
        fit = np.linalg.lstsq(known, trace.effort[rows], rcond=None)[0]
        told, (_, stiff, damp) = known @ fit, fit
        spread = float(np.var(trace.effort[rows]))
        explained = 1 - float(np.var(trace.effort[rows] - told)) / spread if spread > 0 else 0.0
        away = float(np.abs(trace.position - trace.position[0]).max())
        ran_off = len(rows) < len(trace.time) or away > 20 * trace.allowed
        worked = float(np.trapezoid(trace.effort * trace.velocity, trace.time))
        if (
            explained > 0.9
            and (stiff > 0 or damp > 0)
            and ran_off
            and worked > 0
            and (
                stiff * np.ptp(trace.position[rows]) + damp * np.ptp(trace.velocity[rows])
                > 0.5 * np.ptp(trace.effort[rows])
            )
        ):
            yield RunFinding(
                "feedback-sign", trace.joint, float(trace.time[rows[-1]]),
                f"the effort of {trace.joint} grows with its "
                f"{'position' if stiff > 0 else 'speed'}, and pushes it ever farther from where "
                "it was",
                "turn the sign of its feedback round: effort = gain * (target - position)", 87,
            )  # fmt: skip


def swings(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Joints that swing about their targets and do not come to rest, and what may be the reason:
    readings that come late, a controller that is called too seldom, or too little damping."""
    for trace in traces(simulation, recording):
        if trace.motor.control.prescribes or len(trace.time) < 40:
            continue
        frequency = _frequency(trace)
        if frequency is None:
            continue
        sensors = [
            sensor.latency
            for sensor in simulation.robot.sensors.values()
            if getattr(sensor, "joint", trace.joint) == trace.joint
        ]
        periods = [ticks * simulation.settings.step for _, ticks in simulation.controllers]
        wait = 1.5 * max(periods, default=0.0)
        late = max(sensors, default=0.0) if periods else 0.0
        late += trace.motor.delay
        if (periods and trace.motor.control.open_loop) or trace.motor.delay > 0:
            wait += late
        else:
            wait = 0.0
        phase = 360 * frequency * wait
        since = float(trace.time[len(trace.time) // 2])
        how = f"{trace.joint} goes on swinging about its target at {frequency:.2g} Hz"
        if phase > 15 and late > 0.3 * wait:
            yield RunFinding(
                "latency-oscillation", trace.joint, since,
                f"{how}: what its controller goes by is {1e3 * wait:.3g} ms old, "
                f"{phase:.0f} deg of that",
                "shorten the delay, or lower the gains until the loop is slower than it", 86,
            )  # fmt: skip
        elif phase > 15:
            yield RunFinding(
                "gains-unstable", trace.joint, since,
                f"{how}: its controller acts every {1e3 * max(periods):.3g} ms, {phase:.0f} deg "
                "late on average",
                "call it more often, or lower its gains", 85,
            )  # fmt: skip
        else:
            yield RunFinding(
                "damping-too-low", trace.joint, since, how,
                "raise d, or lower p: the swing is damped by hardly anything", 41,
            )  # fmt: skip


def _frequency(trace: Trace) -> float | None:
    """Of a swing that lasts, by itself [Hz]; none where there is none."""
    half = len(trace.time) // 2
    if not trace.motor.control.open_loop:
        # From where its target rests.
        half = max([half, *(np.flatnonzero(np.abs(np.diff(trace.target)) > 1e-9)[-1:] + 1)])
    if len(trace.time) - half < 20:
        return None
    velocity, position = trace.velocity[half:], trace.position[half:]
    target = trace.target[half:]
    aim = float(np.mean(target if trace.motor.control.tracks_velocity else velocity))
    swing = velocity - (aim if trace.motor.control.tracks_velocity else 0.0)
    crossings = int((swing[1:] * swing[:-1] < 0).sum())
    size = _rms(position - np.linspace(position[0], position[-1], len(position)))
    if crossings < 5 or size < 0.5 * trace.allowed:
        return None
    early, late = np.array_split(swing, 2)
    if _rms(late) < 0.7 * _rms(early) or _rms(swing[-len(swing) // 5 :]) < 0.5 * _rms(swing):
        return None
    # A swing is of one frequency; what pushes a joint about now and then is not.
    power = np.abs(np.fft.rfft((swing - swing.mean()) * np.hanning(len(swing)))) ** 2
    peak = int(np.argmax(power))
    if power[max(0, peak - 2) : peak + 3].sum() < _PURE * power.sum():
        return None
    # The motor itself must be busy with it.
    if np.ptp(trace.effort[half:]) < 1e-9:
        return None
    return crossings / (2 * float(trace.time[-1] - trace.time[half]))


def _rms(values: Array) -> float:
    return float(np.sqrt(np.mean(np.square(values))))


def jumps(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Targets that jump farther than the joint could follow."""
    times = recording.table.index.to_numpy(dtype=float)
    between = np.diff(times)
    if not len(between):
        return
    for joint in recording.driven:
        motor = next(m for m in simulation.robot.motors.values() if m.joint == joint)
        if not (motor.control.tracks_position or motor.control.prescribes):
            continue
        target = recording.table[f"{joint}.target"].to_numpy(dtype=float)
        limit = simulation.tree.joints.velocity[simulation.tree.freedom(joint)]
        kind = "angle" if recording.units[joint] == "rad" else "length"
        fastest = limit if np.isfinite(limit) else 100.0
        ways = np.abs(np.diff(target))
        far = np.flatnonzero((ways > 3 * fastest * between) & (ways > 0.02))
        start = abs(target[0] - recording.table[f"{joint}.position"].iloc[0])
        if len(far) or start > max(0.02, 3 * fastest * between[0]):
            row = int(far[0]) + 1 if len(far) else 0
            way = float(ways[far].max()) if len(far) else float(start)
            yield RunFinding(
                "target-jumps", joint, float(times[row]),
                f"the target of {joint} jumps by {show(way, kind, 3)}, faster than it can follow",
                "lead it there: give the step a duration, or send targets in between",
                80,
            )  # fmt: skip
