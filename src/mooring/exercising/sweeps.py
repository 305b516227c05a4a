"""One joint through its range, the others where they are, loops and followers moving along."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from mooring.errors import RunError
from mooring.geometry import Array
from mooring.kinematics import follow_branch
from mooring.kinematics.mechanism.drivers import transmission
from mooring.model.definition.fields import Motion, dimension_of
from mooring.tree import Tree
from mooring.tree.arrays import TreeArrays
from mooring.units import show

_NO_LIMIT = {"rotation": np.pi, "translation": 0.5}
"""How far a joint without limits is moved either way [rad or m]."""


@dataclass(frozen=True, eq=False)
class Sweep:
    """The way of one joint.

    Attributes:
        joint: its name.
        motion: whether it turns or slides.
        lower, upper: its limits; where it has none, as far as it was moved [rad or m].
        positions: of all joints along the way, (s, n), from the lower end to the upper.
        stops: why it could not go all the way, a sentence each end.
        moving: names of the links that move with it.
        mass: of these [kg].
        doubts: positions of the joint where the mechanism could have changed its branch.
    """

    joint: str
    motion: Motion
    lower: float
    upper: float
    positions: Array
    stops: tuple[str, ...]
    moving: tuple[str, ...]
    mass: float
    doubts: tuple[float, ...]


def sweep(tree: Tree, home: Array, joint: str, driven: list[str], steps: int) -> Sweep:
    """Move a joint from where it is to both ends of its range.

    Args:
        tree: whose joint.
        home: where all joints are before, (n,).
        joint: which one.
        driven: those that decide where all others are; they stay.
        steps: positions from end to end.
    """
    row, at = tree.freedom(joint), tree.coordinate(joint)
    motion = tree.motions[row]
    lower, upper = float(tree.joints.lower[row]), float(tree.joints.upper[row])
    kind = dimension_of("position", motion)
    far = _NO_LIMIT[motion]
    lower = home[at] - far if not np.isfinite(lower) else lower
    upper = home[at] + far if not np.isfinite(upper) else upper
    others = {name: float(home[tree.coordinate(name)]) for name in driven if name != joint}
    ways, stops, doubts = [], [], []
    for end in (lower, upper):
        # Limits that are turned round, or beyond which it begins, leave nothing to go through.
        share = abs(end - home[at]) / (upper - lower) if upper > lower else 0.0
        count = 1 + round(steps * min(share, 2.0))
        q, way = home, []
        for goal in np.linspace(home[at], end, count)[1:]:
            try:
                found = follow_branch(tree, q, {**others, joint: float(goal)})
            except RunError as error:
                here, there = show(float(q[at]), kind), show(end, kind)
                stops.append(f"{joint} stops at {here} on its way to {there}: {error}")
                break
            if found.doubts:
                doubts.append(float(goal))
            q = found.q
            way.append(q)
        ways.append(way)
    positions = np.array([*reversed(ways[0]), home, *ways[1]])
    column = transmission(tree, home, driven)[:, driven.index(joint)]
    bodies = moving_bodies(tree.arrays, np.abs(column))
    return Sweep(
        joint,
        motion,
        lower,
        upper,
        positions,
        tuple(stops),
        tuple(tree.links[k] for k in bodies),
        float(tree.arrays.mass[bodies].sum()),
        tuple(doubts),
    )


def moving_bodies(arrays: TreeArrays, speeds: Array) -> list[int]:
    """The bodies that move when freedoms do, at these speeds (m,)."""
    moving: list[int] = []
    for body in range(len(arrays.parent)):
        own = arrays.freedom[body]
        if (own >= 0 and speeds[own] > 1e-9) or arrays.parent[body] in moving:
            moving.append(body)
    return moving
