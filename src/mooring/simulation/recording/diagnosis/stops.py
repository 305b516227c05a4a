"""Joints that ran against stops, through them, or beyond soft limits."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np

from mooring.simulation.recording.finding import RunFinding
from mooring.units import show

if TYPE_CHECKING:
    from mooring.simulation.recording.recording import Recording
    from mooring.simulation.simulation import Simulation

_BEYOND = 1e-3
"""[rad or m]"""


def stops(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Joints that ran against their stops; one that starts there rests there, and is no news."""
    tree, watch = simulation.tree, simulation.watch
    for k, joint in enumerate(tree.freedoms):
        if joint not in recording.units:
            continue
        # The play of a joint is there to be used.
        if simulation.robot.links[simulation.robot.joints[joint].child].carrier:
            continue
        position = recording.table[f"{joint}.position"].to_numpy(dtype=float)
        kind = "angle" if recording.units[joint] == "rad" else "length"
        for side, stop in enumerate((tree.joints.lower[k], tree.joints.upper[k])):
            since = watch.stop[k, side]
            if not np.isfinite(since) or abs(position[0] - stop) < 1e-6:
                continue
            beyond = float((stop - position if side == 0 else position - stop).max())
            how = f", {show(beyond, kind, 3)} beyond at worst" if beyond > 1e-3 else ""
            long = watch.stop[k, 2]
            yield RunFinding(
                "at-stop", joint, float(since),
                f"{joint} ran against its {('lower', 'upper')[side]} stop at {show(stop, kind)}, "
                f"first at {since:.2f} s{how}, and was on it for {long:.2f} s",
                "keep targets inside the limits, or widen them if the machine can go on",
                45,
            )  # fmt: skip


def beyond_stops(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Joints that went through stops that the accurate stepper does not have, or beyond soft
    limits."""
    tree = simulation.tree
    times = recording.table.index.to_numpy(dtype=float)
    for joint, item in simulation.robot.joints.items():
        if joint not in recording.units or f"{joint}.position" not in recording.table:
            continue
        position = recording.table[f"{joint}.position"].to_numpy(dtype=float)
        kind = "angle" if recording.units[joint] == "rad" else "length"
        k = tree.freedom(joint)
        ways = [("stop", tree.joints.lower[k], tree.joints.upper[k])]
        if simulation.stepper != "accurate":
            ways = []
        soft = item.limits and item.limits.soft
        if soft:
            ways.append(("soft limit", soft.lower, soft.upper))
        for what, lower, upper in ways:
            beyond = np.maximum(
                (-np.inf if lower is None else lower) - position,
                position - (np.inf if upper is None else upper),
            )
            if beyond.max(initial=0.0) <= _BEYOND:
                continue
            since = float(times[np.flatnonzero(beyond > _BEYOND)[0]])
            if what == "stop":
                yield RunFinding(
                    "stop-passed", joint, since,
                    f"{joint} went through its stop, by {show(float(beyond.max()), kind, 3)}: the "
                    "accurate stepper has no stops",
                    "use stepper='robust', or start and drive it so that it stays inside", 88,
                )  # fmt: skip
            else:
                yield RunFinding(
                    "soft-limit", joint, since,
                    f"{joint} went {show(float(beyond.max()), kind, 3)} beyond its soft limit, "
                    f"first at {since:.2f} s; nothing but its controller keeps it there",
                    "keep targets inside the soft limits", 35,
                )  # fmt: skip
