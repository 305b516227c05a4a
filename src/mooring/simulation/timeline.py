"""From a motion's steps to the targets of every joint over time."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.kinematics import configuration
from mooring.model import MotionStep, Robot
from mooring.simulation.arrays import Timeline
from mooring.tree import Tree
from mooring.units import show

# The largest speed of a quintic way of length 1 that takes 1 s.
_PEAK = 15 / 8
_SHORTEST = 0.05
"""[s]"""


def resting(tree: Tree, q: Array) -> Timeline:
    """Targets that stay where they are."""
    return Timeline(np.empty(0), np.empty(0), _targets(tree, q)[None, :])


def _targets(tree: Tree, q: Array) -> Array:
    """The position of each freedom, (m,); zero for what floats, which nothing drives."""
    positions = tree.arrays.position
    return np.where(positions < 0, 0.0, q[positions])


def timeline_of(
    robot: Robot, tree: Tree, steps: Sequence[MotionStep], start: Array, notes: list[str]
) -> Timeline:
    """The targets of a motion that begins at a configuration.

    Args:
        robot, tree: whose motion.
        steps: the motion.
        start: positions at time 0, (n,).
        notes: where to say which speeds are beyond the limits.

    Raises:
        ModelError: a step gives no duration and no moving joint has a velocity limit.
    """
    clock = 0.0
    starts, ends, points = [], [], [_targets(tree, start)]
    for step in steps:
        if step.to is not None:
            goal = _targets(tree, configuration(robot, step.to, tree))
            way = np.abs(goal - points[-1])
            if way.max(initial=0.0) > 1e-12:
                span = step.over or _shortest_time(tree, way, step.to)
                _note_speeds(tree, way, span, step.to, notes)
                starts.append(clock)
                clock += span
                ends.append(clock)
                points.append(goal)
            elif step.over:
                clock += step.over
        clock += step.hold
    return Timeline(np.array(starts), np.array(ends), np.array(points))


def duration_of(steps: Sequence[MotionStep], timeline: Timeline) -> float:
    """How long a motion takes with its last wait [s]."""
    moving = float(np.sum(timeline.ends - timeline.starts))
    return moving + sum(step.hold for step in steps)


def _shortest_time(tree: Tree, way: Array, goal: str) -> float:
    limits = tree.joints.velocity
    limited = np.isfinite(limits) & (limits > 0)
    if not (limited & (way > 0)).any():
        raise ModelError(
            f"the step to {goal!r} gives no duration, and no joint it moves has a velocity limit "
            "to take one from; add over: ..."
        )
    return max(_SHORTEST, float((_PEAK * way[limited] / limits[limited]).max()))


def _note_speeds(tree: Tree, way: Array, span: float, goal: str, notes: list[str]) -> None:
    peaks = _PEAK * way / span
    for k, name in enumerate(tree.freedoms):
        limit = tree.joints.velocity[k]
        if peaks[k] > limit * 1.0001:
            kind = "angular velocity" if tree.motions[k] == "rotation" else "velocity"
            notes.append(
                f"the step to {goal!r} in {span:.3g} s asks {name} for {show(peaks[k], kind)}, "
                f"above its limit of {show(limit, kind)}"
            )
