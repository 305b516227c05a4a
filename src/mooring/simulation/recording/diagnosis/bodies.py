"""Bodies: inside each other, lost, tipped over, slipping, too different."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np

from mooring.geometry import Array
from mooring.kinematics import link_poses
from mooring.kinematics.overlaps.pairs import Pair
from mooring.simulation.recording.finding import RunFinding
from mooring.tree.arrays import FLOATING, Indices
from mooring.units import show

if TYPE_CHECKING:
    from mooring.simulation.recording.recording import Recording
    from mooring.simulation.simulation import Simulation

GROUND = "ground"
_DEEP = 2e-3
_AWAY = 50.0
"""[m]"""
_SLIPPED = 0.03
"""[m]"""
_OF_THE_WAY = 0.25
"""What walks may slide by this share of its way."""
_HEAVY = 1000.0
_LEANS = 0.5
"""The cosine of the angle from which on something has tipped over."""
_SPUN = 0.5
"""A wheel that slides for a larger share of its rim's way spins."""
EXPLAINS_ALL = {"tipped-over", "fell-through", "fell-away"}
_STRETCH = 64
"""Instants whose poses are looked at together."""


def overlaps(simulation: Simulation, _: Recording) -> Iterator[RunFinding]:
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


def lost(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
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


def slips(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Feet and tools that slid while they were pressed on; wheels and loose bodies may."""
    tree, slip = simulation.tree, simulation.watch.slip
    shapes = simulation.contact.shapes
    # What walks slides a little with every step.
    travelled = np.zeros(len(tree.links))
    positions = recording.positions()
    for body, parent in enumerate(tree.arrays.parent):
        if tree.arrays.kind[body] == FLOATING:
            first = int(tree.arrays.coordinate[body])
            ways = np.diff(positions[:, first : first + 3], axis=0)
            travelled[body] = np.linalg.norm(ways, axis=1).sum()
        elif parent >= 0:
            travelled[body] = travelled[parent]
    for body, link in enumerate(tree.links):
        if tree.arrays.kind[body] == FLOATING or tree.arrays.tip[body] < 0:
            continue
        joint = next((j for j in simulation.robot.joints.values() if j.child == link), None)
        if joint is not None and joint.endless:
            continue
        way = float(slip[shapes.body[:-1] == body].max(initial=0.0))
        if way > max(_SLIPPED, _OF_THE_WAY * float(travelled[body])):
            contacts = recording.contacts
            mine = contacts[(contacts["first"] == link) | (contacts["second"] == link)]
            since = float(mine["time"].iloc[0]) if len(mine) else 0.0
            yield RunFinding(
                "slipped", link, since,
                f"{link} slid {show(way, 'length', 3)} on what it was pressed against",
                "it needs more friction, more pressure, or a motion that does not drag it",
                30,
            )  # fmt: skip


def ratios(simulation: Simulation, _: Recording) -> Iterator[RunFinding]:
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


def tipped(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Machines that float, and lie on their sides or backs."""
    tree = simulation.tree
    positions, times = recording.positions(), recording.table.index.to_numpy(dtype=float)
    touched = {*recording.contacts["first"], *recording.contacts["second"]}
    for body in np.flatnonzero(tree.arrays.kind == FLOATING):
        carried = carried_by(tree.arrays.parent, int(body))
        machine = any(tree.arrays.freedom[k] >= 0 for k in carried if k != body)
        if not machine or not touched & {tree.links[k] for k in carried}:
            continue
        # What points up as the machine was drawn.
        upright = tree.neutral_frames[body][2, :3]
        stretches = np.array_split(positions, 1 + len(positions) // _STRETCH)
        leaning = np.concatenate(
            [link_poses(tree, stretch)[:, body, 2, :3] @ upright for stretch in stretches]
        )
        late = times >= times[-1] - 0.2 * (times[-1] - times[0])
        if leaning[late].max() > _LEANS:
            continue
        since = int(np.flatnonzero(leaning > _LEANS)[-1]) + 1 if (leaning > _LEANS).any() else 0
        angle = np.degrees(np.arccos(np.clip(leaning[-1], -1, 1)))
        how = "lies" if since == 0 else "tipped over and lies"
        yield RunFinding(
            "tipped-over", tree.links[body], float(times[since]),
            f"{tree.links[body]} {how} {angle:.0f} deg from upright"
            + (" from the start" if since == 0 else f", since {times[since]:.2f} s"),
            "start it upright (posture), or slow the motion, widen its stance or lower its centre "
            "of mass; what follows in this list may all come of it",
            99,
        )  # fmt: skip


def carried_by(parents: Indices, body: int) -> list[int]:
    """A body and all that hangs on it."""
    found = {body}
    for child, parent in enumerate(parents):
        if int(parent) in found:
            found.add(child)
    return sorted(found)


def spins(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Driven wheels that slide more than they roll."""
    tree, slip = simulation.tree, simulation.watch.slip
    shapes = simulation.contact.shapes
    for joint in recording.driven:
        item = simulation.robot.joints[joint]
        if not item.endless:
            continue
        body = tree.link(item.child)
        radii = [getattr(placed.shape, "radius", None)
                 for placed in simulation.robot.links[item.child].collisions]  # fmt: skip
        radius = max((r for r in radii if r), default=0.0)
        turned = float(np.abs(recording.table[f"{joint}.position"].diff()).sum())
        slid = float(slip[shapes.body[:-1] == body].max(initial=0.0))
        rim = radius * turned
        if rim > 0.2 and slid > _SPUN * rim:
            yield RunFinding(
                "wheel-spins", joint, float(recording.table.index[0]),
                f"the wheel of {joint} turned {show(rim, 'length', 3)} of its rim and slid "
                f"{show(slid, 'length', 3)} of that: it spins",
                "it needs more friction or more weight on it, a slower start, or something that is "
                "in the way taken off",
                84,
            )  # fmt: skip
