"""Joints that something in their way keeps from their targets."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np

from mooring.geometry import Array
from mooring.kinematics import jacobian
from mooring.simulation.recording.diagnosis.bodies import carried_by
from mooring.simulation.recording.diagnosis.traces import (
    Press,
    Trace,
    at_stop,
    last_presses,
    traces,
)
from mooring.simulation.recording.finding import RunFinding
from mooring.tree.arrays import FLOATING
from mooring.units import show

if TYPE_CHECKING:
    from mooring.simulation.recording.recording import Recording
    from mooring.simulation.simulation import Simulation

_SHARE = 0.3
"""Of a motor's effort that something in the way takes."""


def blocked(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Motors that push against a body."""
    contacts = recording.contacts
    if not len(contacts):
        return
    row = len(recording.table) - 1
    time = float(recording.table.index[row])
    now = last_presses(recording)
    if time - float(contacts["time"].iloc[-1]) > 0.1:
        return
    for trace in traces(simulation, recording):
        late = trace.late
        if trace.motor.control.open_loop:
            continue
        if trace.motor.control.tracks_velocity:
            hindered = np.abs(trace.velocity[late]).max() < 0.2 * np.abs(trace.target[late]).min()
        else:
            off = np.abs(trace.target - trace.position)[late].min()
            hindered = trace.rests and off > trace.allowed
        effort = float(trace.effort[row])
        if not hindered or effort == 0.0:
            continue
        against = _against(simulation, recording, trace, now)
        if not against:
            continue
        other, share = max(against.items(), key=lambda pair: pair[1])
        if at_stop(simulation, trace) or _held(simulation, trace, other, now):
            continue
        if share > _SHARE * abs(effort):
            first = _since(recording, simulation, trace, other)
            yield RunFinding(
                "blocked", trace.joint, first,
                f"{trace.joint} is blocked by {other}, which holds against it with "
                f"{show(share, trace.effort_kind, 3)} since {first:.2f} s",
                f"take {other} out of the way, or go another way", 88,
            )  # fmt: skip


def stuck(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Machines on wheels that stand against something, however their wheels turn."""
    contacts, tree = recording.contacts, simulation.tree
    now = last_presses(recording)
    for body in np.flatnonzero(tree.arrays.kind == FLOATING):
        machine = {tree.links[k] for k in carried_by(tree.arrays.parent, int(body))}
        wheels = [
            trace for trace in traces(simulation, recording)
            if simulation.robot.joints[trace.joint].child in machine
            and simulation.robot.joints[trace.joint].endless
            and trace.motor.control.tracks_velocity
        ]  # fmt: skip
        if not wheels or max(np.abs(trace.target[trace.late]).min() for trace in wheels) < 0.1:
            continue
        places = recording.positions()[wheels[0].late][:, tree.arrays.coordinate[body] :][:, :2]
        if np.linalg.norm(np.ptp(places, axis=0)) > 0.02:
            continue
        found: dict[str, float] = {}
        for press in now:
            for mine, other in ((press.second, press.first), (press.first, press.second)):
                if mine in machine and other not in machine and other != "ground":
                    across = float(np.hypot(*press.force[:2]))
                    found[other] = found.get(other, 0.0) + across
        if not found:
            continue
        other, force = max(found.items(), key=lambda pair: pair[1])
        since = contacts["time"][(contacts["first"] == other) | (contacts["second"] == other)]
        yield RunFinding(
            "blocked", tree.links[body], float(since.iloc[0]),
            f"{tree.links[body]} stands against {other}, which holds it with "
            f"{show(force, 'force', 3)} since {float(since.iloc[0]):.2f} s, while its wheels are "
            "driven",
            f"take {other} out of the way, or drive another way", 88,
        )  # fmt: skip


def _held(simulation: Simulation, trace: Trace, other: str, now: list[Press]) -> bool:
    """Whether what is in the way is something loose that the machine holds from two sides."""
    tree = simulation.tree
    if other == "ground" or tree.arrays.kind[tree.link(other)] != FLOATING:
        return False
    moved = _moved(simulation, trace.joint)
    touching = {
        press.first if press.second == other else press.second
        for press in now
        if other in (press.first, press.second)
    }
    fixed = {link for link in touching - moved if link != "ground"}
    return any(tree.arrays.tip[tree.link(link)] >= 0 for link in fixed)


def _moved(simulation: Simulation, joint: str) -> set[str]:
    """The links that a joint moves."""
    tree = simulation.tree
    moved = {tree.link(simulation.robot.joints[joint].child)}
    for body, parent in enumerate(tree.arrays.parent):
        if int(parent) in moved:
            moved.add(body)
    return {tree.links[body] for body in moved}


def _against(
    simulation: Simulation, recording: Recording, trace: Trace, now: list[Press]
) -> dict[str, float]:
    """How strongly others hold against a motor, by the virtual work of their contacts."""
    tree = simulation.tree
    q = recording.positions()[-1]
    moved = _moved(simulation, trace.joint)
    freedom = tree.freedom(trace.joint)
    sense = -np.sign(trace.effort[-1])
    found: dict[str, float] = {}
    for press in now:
        for mine, other, sign in (
            (press.second, press.first, 1.0), (press.first, press.second, -1.0),
        ):  # fmt: skip
            if mine not in moved or other in moved:
                continue
            # A machine that floats stands on the ground: that is what it is for.
            if other == "ground" and tree.arrays.kind[0] == FLOATING:
                continue
            pose = simulation.pose(mine)
            place: Array = pose[:3, :3].T @ (press.point - pose[:3, 3])
            along = jacobian(tree, q, mine, place)[3:, freedom]
            force = sign * press.force
            found[other] = found.get(other, 0.0) + float(sense * (along @ force))
    return found


def _since(recording: Recording, simulation: Simulation, trace: Trace, other: str) -> float:
    moved = _moved(simulation, trace.joint)
    contacts = recording.contacts
    pairs = (contacts["first"].isin(moved) & (contacts["second"] == other)) | (
        contacts["second"].isin(moved) & (contacts["first"] == other)
    )
    return float(contacts["time"][pairs].iloc[0])
