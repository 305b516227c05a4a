"""What went wrong in a run: every suspicion is a function that looks at it and says so.

A cause outweighs what follows from it: shapes that begin inside each other make motors saturate,
and not the other way round.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from mooring.exercising.efforts import holding_now
from mooring.geometry import Array
from mooring.kinematics import link_poses, loop_freedoms
from mooring.kinematics.mechanism.drivers import drivers
from mooring.kinematics.overlaps.pairs import Pair
from mooring.simulation.recording.finding import RunFinding
from mooring.simulation.recording.recording import ENERGIES
from mooring.tree.arrays import FLOATING, Indices
from mooring.units import show

if TYPE_CHECKING:
    from mooring.simulation.recording.recording import Recording
    from mooring.simulation.simulation import Simulation

GROUND = "ground"
_DEEP = 2e-3
_LONG = 0.1
"""A motor at its limit for a smaller share of the time has merely been busy."""
_AWAY = 50.0
"""[m]"""
_SLIPPED = 0.03
"""[m]"""
_HEAVY = 1000.0
_BEYOND = 1e-3
"""[rad or m]"""
_RESIDUE = 0.05
"""Energy from nowhere, as a share of what went through."""
_SWING = 64
"""Steps in which the slowest spring that a step notices has swung once."""
_LEAST_RESIDUE = 1e-3
"""[J]"""
_OFF = {"rad": 0.02, "m": 0.005}
"""How far off its target a motor may rest."""
_LOOKS = 25
"""Instants at which the effort to hold is looked at."""
_STRETCH = 64
"""Instants whose poses are looked at together."""


def diagnose(simulation: Simulation, recording: Recording) -> list[RunFinding]:
    """Everything that is wrong, the likely cause of the rest first.

    Args:
        simulation: as it stands after the run.
        recording: of it; its findings are not looked at.
    """
    if recording.table.empty:
        return []
    found = [finding for suspect in SUSPICIONS for finding in suspect(simulation, recording)]
    return sorted(found, key=lambda finding: (-finding.weight, finding.since))


def _overlaps(simulation: Simulation, _: Recording) -> Iterator[RunFinding]:
    """Shapes inside each other, from the start or later."""
    worst: dict[Pair, Array] = {}
    watch = simulation.watch
    body = simulation.contact.shapes.body
    for shapes, noted in zip(watch.overlapping, watch.overlap, strict=True):
        if noted[1] <= _DEEP:
            continue
        first, second = (GROUND if s < 0 else simulation.tree.links[body[s]] for s in shapes)
        pair = (first, second)
        if pair not in worst or noted[1] > worst[pair][1]:
            worst[pair] = noted
    for (first, second), (since, depth, long, energy) in worst.items():
        names = f"{first} and {second}"
        how = f"{show(depth, 'length', 3)} deep"
        if since <= 0.5 * simulation.settings.step:
            yield RunFinding(
                "overlap-at-start", names, float(since),
                f"{names} overlap from the start, {how}; parting them put in "
                f"{show(energy, 'energy', 3)} and took {long:.2f} s",
                "shrink one of their shapes (clearance), start apart, or allow the overlap",
                100 + depth,
            )  # fmt: skip
        elif depth > 5 * _DEEP:
            yield RunFinding(
                "overlap", names, float(since),
                f"{names} were pressed into each other, {how} at worst, for {long:.2f} s",
                "what presses them is stronger than the step allows for: take a shorter step, or "
                "look at what forces them together",
                55,
            )  # fmt: skip


def _lost(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Bodies that fell through the ground, or away."""
    tree, ground = simulation.tree, simulation.ground
    reach = simulation.contact.shapes
    floating = np.flatnonzero(tree.arrays.kind == FLOATING)
    for body, heights in zip(floating, _heights(simulation, recording, floating).T, strict=True):
        first = tree.arrays.coordinate[body]
        name = tree.coordinates[first][:-2]
        link = tree.links[body]
        mine = reach.body[:-1] == body
        size = float(reach.ball[:-1][mine, 3].max(initial=0.0))
        level = -np.inf
        if ground is not None and ground.heights is None:
            level = ground.height - size - 0.02
        below = np.flatnonzero(heights < level)
        times = recording.table.index.to_numpy(dtype=float)
        if len(below):
            yield RunFinding(
                "fell-through", link, float(times[below[0]]),
                f"{link} fell through the ground",
                "it has no collision shapes" if not mine.any() else
                "it is thinner than what it moves in a step: take a shorter step",
                95,
            )  # fmt: skip
            continue
        away = np.flatnonzero(np.abs(heights - heights[0]) > _AWAY)
        places = recording.table[[f"{name}.x", f"{name}.y"]].to_numpy(dtype=float)
        away = np.union1d(away, np.flatnonzero(np.abs(places - places[0]).max(axis=1) > _AWAY))
        if len(away):
            nothing = ground is None
            yield RunFinding(
                "fell-away", link, float(times[int(away[0])]),
                f"{link} is {show(_AWAY, 'length')} away from where it began",
                "there is no ground to stop it" if nothing else "look at what pushed it",
                94,
            )  # fmt: skip


def _heights(simulation: Simulation, recording: Recording, bodies: Indices) -> Array:
    """How high the origins of bodies were, (instants, bodies) [m]."""
    if not len(bodies):
        return np.zeros((len(recording.table), 0))
    # A stretch at a time: the poses of many links at many instants are large.
    positions = recording.positions()
    stretches = np.array_split(positions, 1 + len(positions) // _STRETCH)
    return np.concatenate(
        [link_poses(simulation.tree, stretch)[:, bodies, 2, 3] for stretch in stretches]
    )


def _exploded(simulation: Simulation, _: Recording) -> Iterator[RunFinding]:
    """A motion that left all bounds."""
    if "exploded" not in simulation.ended:
        return
    _, time, freedom = simulation.watch.fastest
    joint = simulation.tree.freedoms[int(freedom)]
    yield RunFinding(
        "exploded", joint, float(time),
        f"the motion exploded at {time:.3f} s, first in {joint}",
        "take a shorter step, or stepper='robust'" if simulation.stepper == "accurate" else
        "look at the findings before; a shorter step may show where it begins",
        50,
    )  # fmt: skip


def _gains(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
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


def _jumps(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Targets that jump farther than the joint could follow."""
    times = recording.table.index.to_numpy(dtype=float)
    between = np.diff(times)
    if not len(between):
        return
    for joint in recording.driven:
        motor = next(m for m in simulation.robot.motors.values() if m.joint == joint)
        if motor.mode not in ("position", "motion"):
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


def _weak(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
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


def _stops(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Joints that ran against their stops; one that starts there rests there, and is no news."""
    tree, watch = simulation.tree, simulation.watch
    for k, joint in enumerate(tree.freedoms):
        if joint not in recording.units:
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


def _open_loops(simulation: Simulation, _: Recording) -> Iterator[RunFinding]:
    """A coupling or closure pulled open."""
    gap, since = simulation.watch.gap
    if gap > 2e-3:
        yield RunFinding(
            "loop-open", "loops", float(since),
            f"a coupling or closure was open by {show(gap, 'length', 3)}",
            "two motors may drive the loop against each other, or it cannot reach the posture",
            65,
        )  # fmt: skip


def _slips(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Feet and tools that slid while they were pressed on; wheels and loose bodies may."""
    tree, slip = simulation.tree, simulation.watch.slip
    shapes = simulation.contact.shapes
    for body, link in enumerate(tree.links):
        if tree.arrays.kind[body] == FLOATING or tree.arrays.tip[body] < 0:
            continue
        joint = next((j for j in simulation.robot.joints.values() if j.child == link), None)
        if joint is not None and joint.type == "continuous":
            continue
        way = float(slip[shapes.body[:-1] == body].max(initial=0.0))
        if way > _SLIPPED:
            contacts = recording.contacts
            mine = contacts[(contacts["first"] == link) | (contacts["second"] == link)]
            since = float(mine["time"].iloc[0]) if len(mine) else 0.0
            yield RunFinding(
                "slipped", link, since,
                f"{link} slid {show(way, 'length', 3)} on what it was pressed against",
                "it needs more friction, more pressure, or a motion that does not drag it",
                30,
            )  # fmt: skip


def _ratios(simulation: Simulation, _: Recording) -> Iterator[RunFinding]:
    """Light links that carry heavy ones, where the solver could not finish."""
    steps = max(1, round(simulation.time / simulation.settings.step))
    if simulation.watch.sweeps[2] < 0.2 * steps:
        return
    arrays = simulation.tree.arrays
    carried = arrays.mass.copy()
    for body in range(len(carried) - 1, 0, -1):
        carried[arrays.parent[body]] += carried[body]
    masses = [(m, k) for k, m in enumerate(arrays.mass) if m > 0 and arrays.tip[k] >= 0]
    light, heavy = min(masses), max(masses)
    if heavy[0] / light[0] > _HEAVY:
        names = f"{simulation.tree.links[light[1]]} and {simulation.tree.links[heavy[1]]}"
        yield RunFinding(
            "mass-ratio", names, 0.0,
            f"{names} differ {heavy[0] / light[0]:,.0f} times in mass, and forces between them "
            "were not found to the end",
            "check both masses; if they are right, take a shorter step",
            58,
        )  # fmt: skip
        return
    yield RunFinding(
        "solver-short", "contacts", 0.0,
        "the forces of many steps were not found to their full accuracy",
        "take a shorter step, or fewer shapes where things touch",
        20,
    )  # fmt: skip


def _beyond_stops(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
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


def _too_much(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Prescribed motions that take more than the motor has."""
    times = recording.table.index.to_numpy(dtype=float)
    for motor in simulation.robot.motors.values():
        joint = motor.joint
        if motor.mode != "motion" or joint not in recording.driven:
            continue
        limit, kind = recording.limits[joint], _kind(recording, joint)
        effort = np.abs(recording.table[f"{joint}.effort"].to_numpy(dtype=float))
        over = np.flatnonzero(effort > limit * 1.001)
        if len(over):
            yield RunFinding(
                "motion-too-strong", joint, float(times[over[0]]),
                f"the prescribed motion of {joint} takes {show(float(effort.max()), kind, 3)}, and "
                f"its motor has {show(limit, kind)}",
                "move slower, carry less, or take a stronger motor", 80,
            )  # fmt: skip


def _unexplained(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Energy that appeared from nowhere: the balance over all sources does not close."""
    table = recording.table
    column = {name: table[f"energy.{name}"].to_numpy(dtype=float) for name in ENERGIES}
    held = column["kinetic"] + column["potential"]
    given = column["motors"] + column["pushes"]
    lost = column["damping"] + column["friction"] + column["contact"]
    residue = (held - held[0]) - (given - given[0]) + (lost - lost[0])
    # What went through the machine, not how high it stands.
    scale = max(
        float(column["kinetic"].max()), float(np.ptp(held)), float(np.ptp(given)),
        float(np.ptp(lost)),
    )  # fmt: skip
    parting = float(simulation.watch.overlap[:, 3].sum())
    # Stiff springs swing about the energy that they keep; what stays for a while has appeared.
    span = min(1 + _SWING // simulation.settings.every, len(residue))
    lasting = sliding_window_view(residue, span).min(axis=1)
    grown = float(lasting.max()) - parting
    if grown > max(_RESIDUE * scale, _LEAST_RESIDUE):
        row = int(np.flatnonzero(lasting > 0.5 * lasting.max())[0])
        yield RunFinding(
            "energy-from-nowhere", recording.robot, float(table.index[row]),
            f"{show(grown, 'energy', 3)} appeared that no motor or push gave "
            f"({100 * grown / scale:.0f}% of what went through)",
            f"the step of {1e3 * simulation.settings.step:g} ms is too long for what moves here: "
            "halve it, and see whether this halves",
            54,
        )  # fmt: skip


def _sags(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Position motors that never come to their targets."""
    table = recording.table
    times = table.index.to_numpy(dtype=float)
    rest = times >= times[-1] - max(0.2 * (times[-1] - times[0]), 0.1)
    for motor in simulation.robot.motors.values():
        joint = motor.joint
        if motor.mode != "position" or joint not in recording.driven or times[-1] - times[0] < 0.5:
            continue
        target, position, speed, effort = (
            table[f"{joint}.{what}"].to_numpy(dtype=float)[rest]
            for what in ("target", "position", "velocity", "effort")
        )
        off = float(np.abs(target - position).min())
        slow = float(np.abs(speed).max()) < 0.05 and float(np.ptp(target)) < 1e-9
        if off < _OFF[recording.units[joint]] or not slow:
            continue
        limit, turn = recording.limits[joint], _kind(recording, joint)
        kind = "angle" if recording.units[joint] == "rad" else "length"
        friction = simulation.tree.joints.friction[simulation.tree.freedom(joint)]
        most = float(np.abs(effort).max())
        if most > 0.999 * limit and friction >= limit:
            yield RunFinding(
                "friction-too-large", joint, float(times[0]),
                f"the dry friction of {joint} is {show(float(friction), turn)}, and its motor has "
                f"{show(limit, turn)}: it cannot move",
                "lower the friction, or take a stronger motor", 92,
            )  # fmt: skip
        elif most < 0.9 * limit:
            yield RunFinding(
                "gain-too-low", joint, float(times[-1]),
                f"{joint} rests {show(off, kind, 3)} off its target, where its motor pushes with "
                f"{show(most, turn, 3)} of {show(limit, turn)}",
                f"raise p (now {motor.p:g}), give it feed_forward: gravity, or an integral part",
                40,
            )  # fmt: skip


def _kind(recording: Recording, joint: str) -> str:
    return "torque" if recording.units[joint] == "rad" else "force"


def _seized(simulation: Simulation, _: Recording) -> Iterator[RunFinding]:
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


SUSPICIONS: tuple[Callable[[Simulation, Recording], Iterator[RunFinding]], ...] = (
    _overlaps, _lost, _exploded, _gains, _jumps, _weak, _stops, _open_loops, _slips, _ratios,
    _beyond_stops, _too_much, _unexplained, _sags, _seized,
)  # fmt: skip
