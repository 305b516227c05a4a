"""Joints that something in their way keeps from their targets."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np

from mooring.geometry import Array
from mooring.kinematics import jacobian
from mooring.simulation.recording.diagnosis.traces import Trace, traces
from mooring.simulation.recording.finding import RunFinding
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
    now = contacts[np.isclose(contacts["time"], contacts["time"].max())]
    if time - float(now["time"].iloc[0]) > 0.1:
        return
    for trace in traces(simulation, recording):
        late = trace.late
        if trace.motor.mode == "effort":
            continue
        if trace.motor.mode == "velocity":
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
        if share > _SHARE * abs(effort):
            first = _since(recording, simulation, trace, other)
            yield RunFinding(
                "blocked", trace.joint, first,
                f"{trace.joint} is blocked by {other}, which holds against it with "
                f"{show(share, trace.effort_kind, 3)} since {first:.2f} s",
                f"take {other} out of the way, or go another way", 88,
            )  # fmt: skip


def _moved(simulation: Simulation, joint: str) -> set[str]:
    """The links that a joint moves."""
    tree = simulation.tree
    moved = {tree.link(simulation.robot.joints[joint].child)}
    for body, parent in enumerate(tree.arrays.parent):
        if int(parent) in moved:
            moved.add(body)
    return {tree.links[body] for body in moved}


def _against(
    simulation: Simulation, recording: Recording, trace: Trace, now: object
) -> dict[str, float]:
    """How strongly others hold against a motor, by the virtual work of their contacts."""
    tree = simulation.tree
    q = recording.positions()[-1]
    moved = _moved(simulation, trace.joint)
    freedom = tree.freedom(trace.joint)
    sense = -np.sign(trace.effort[-1])
    found: dict[str, float] = {}
    for contact in now.itertuples():  # type: ignore[attr-defined]
        for mine, other, sign in (
            (contact.second, contact.first, 1.0), (contact.first, contact.second, -1.0),
        ):  # fmt: skip
            if mine not in moved or other in moved:
                continue
            # A machine that floats stands on the ground: that is what it is for.
            if other == "ground" and tree.arrays.kind[0] == 3:
                continue
            pose = simulation.pose(mine)
            place: Array = pose[:3, :3].T @ (
                np.array([contact.x, contact.y, contact.z]) - pose[:3, 3]
            )
            along = jacobian(tree, q, mine, place)[3:, freedom]
            force = sign * np.array([contact.fx, contact.fy, contact.fz])
            found[other] = found.get(other, 0.0) + float(sense * (along @ force))
    return found


def _since(recording: Recording, simulation: Simulation, trace: Trace, other: str) -> float:
    moved = _moved(simulation, trace.joint)
    contacts = recording.contacts
    pairs = (contacts["first"].isin(moved) & (contacts["second"] == other)) | (
        contacts["second"].isin(moved) & (contacts["first"] == other)
    )
    return float(contacts["time"][pairs].iloc[0])
