"""The tree of a robot as plain values: what the browser lists, labels and draws symbols from."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import numpy as np

from mooring.drawing.palette import AXES, COLLISION, INK, MASS, SERIES
from mooring.formats.scenes.glb import quaternions
from mooring.geometry import Array, inverse
from mooring.kinematics import loop_freedoms
from mooring.model import Robot
from mooring.model.scene import Ground
from mooring.model.structure import depth_first
from mooring.tree import Tree


def structure(robot: Robot, tree: Tree, ground: Ground | None = None) -> dict[str, Any]:
    """Everything about a robot that does not change as it moves."""
    return {
        "name": robot.name,
        "root": tree.links[0],
        "links": [_link(robot, tree, number) for number in range(len(tree.links))],
        "joints": _joints(robot, tree),
        "frames": [
            {"name": name, "link": tree.links[row], "role": robot.frames[name].role,
             "place": place_of(at)}
            for name, (row, at) in tree.frames.items()
        ],
        "coordinates": list(tree.coordinates),
        "cameras": [n for n, s in robot.sensors.items() if s.view is not None],
        "scanners": [n for n, s in robot.sensors.items() if s.fan is not None],
        "ground": None if ground is None or ground.heights is not None else ground.height,
        "colors": {
            "axes": list(AXES), "collision": COLLISION, "mass": MASS, "ink": INK,
            "series": list(SERIES),
        },
    }  # fmt: skip


def place_of(place: Array) -> list[float]:
    """A placement (4, 4) as x, y, z, qx, qy, qz, qw."""
    row = [*place[:3, 3], *quaternions(place[None])[0]]
    return [round(float(value), 9) for value in row]


def _link(robot: Robot, tree: Tree, number: int) -> dict[str, Any]:
    arrays = tree.arrays
    size, turn = equivalent_box(float(arrays.mass[number]), arrays.tensor[number])
    return {
        "name": tree.links[number],
        "mass": float(arrays.mass[number]),
        "centre": [float(v) for v in arrays.centre[number]],
        "box": size,
        "box_turn": turn,
        "shown": bool(
            robot.links[tree.links[number]].shown(robot.materials)
            or robot.links[tree.links[number]].collisions
        ),
    }


def equivalent_box(mass: float, tensor: Array) -> tuple[list[float], list[float]]:
    """The block of even density with this mass and inertia: edges [m], and how it is turned.

    From the inertia of a block about its middle, m (b^2 + c^2) / 12.
    """
    if mass <= 0:
        return [0.0, 0.0, 0.0], [0.0, 0.0, 0.0, 1.0]
    moments, axes = np.linalg.eigh(tensor)
    if np.linalg.det(axes) < 0:
        axes[:, 0] *= -1
    squares = (moments.sum() - 2 * moments) * 6 / mass
    place = np.eye(4)
    place[:3, :3] = axes
    edges = np.sqrt(np.maximum(squares, 0.0))
    return [float(v) for v in edges], [float(v) for v in quaternions(place[None])[0]]


def _joints(robot: Robot, tree: Tree) -> list[dict[str, Any]]:
    none = np.zeros(0, dtype=np.int64)
    closures = replace(tree, loops=tree.loops._replace(follower=none, leader=none))
    tied = dict(zip(tree.freedoms, loop_freedoms(closures), strict=True))
    found = []
    for joint in depth_first(robot):
        limits = joint.limits
        moving = joint.has_axis
        coupling = robot.couplings.get(joint.name)
        parent, child = tree.link(joint.parent), tree.link(joint.child)
        place = inverse(tree.neutral_frames[parent]) @ tree.neutral_frames[child]
        found.append(
            {
                "name": joint.name,
                "type": joint.type,
                "motion": joint.motion,
                "parent": joint.parent,
                "child": joint.child,
                "place": place_of(place),
                "axis": [float(v) for v in joint.axis] if moving else None,
                "coordinate": tree.coordinate(joint.name) if moving else -1,
                "lower": _finite(limits.lower) if moving else None,
                "upper": _finite(limits.upper) if moving else None,
                "follows": None if coupling is None else coupling.follows,
                "ratio": None if coupling is None else coupling.ratio,
                "offset": None if coupling is None else coupling.offset,
                "also": {} if coupling is None else dict(coupling.also),
                "looped": bool(moving and tied.get(joint.name, False)),
            }
        )
    return found


def _finite(value: float | None) -> float | None:
    return value if value is not None and math.isfinite(value) else None
