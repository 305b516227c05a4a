"""From cables, closures that give and forces with a law to what the compiled core works on."""

from __future__ import annotations

import itertools
import math

import numpy as np

from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.model import Cable, Closure, Robot
from mooring.model.forces import Force
from mooring.simulation.stepping.arrays import CableArrays, ForceArrays, LawArrays
from mooring.tree import Tree


def force_arrays(robot: Robot, tree: Tree) -> ForceArrays:
    """Cables, closures that give, and forces with a law.

    Raises:
        ModelError: a link has no shapes that displace water.
    """
    gives = [_give(closure) for closure in robot.closures.values()]
    return ForceArrays(
        [_cable(cable, tree) for cable in robot.cables.values()],
        np.array(gives, dtype=float).reshape(-1, 5),
        [_law(robot, force, tree) for force in robot.forces.values()],
    )


def belts(robot: Robot, tree: Tree) -> Array:
    """How fast the surface of each body runs, (bodies, 3) [m/s], in its axes."""
    speeds = np.zeros((len(tree.links), 3))
    for conveyor in robot.conveyors.values():
        if not robot.links[conveyor.link].collisions:
            raise ModelError(
                f"{conveyor.link!r} has no collision shapes, so nothing can lie on it; give it "
                f"some (collision), or take the conveyor {conveyor.name!r} off"
            )
        speeds[tree.link(conveyor.link)] = conveyor.speed * np.array(conveyor.direction)
    return speeds


def _give(closure: Closure) -> tuple[float, float, float, float, float]:
    def rigid(value: float | None) -> float:
        return math.inf if value is None else value

    return (
        rigid(closure.stiffness), closure.damping, rigid(closure.turning_stiffness),
        closure.turning_damping, closure.play,
    )  # fmt: skip


def _cable(cable: Cable, tree: Tree) -> CableArrays:
    points, places = [], []
    for name in cable.through:
        body, frame = tree.frames[name]
        x, y, z = (float(value) for value in frame[:3, 3])
        points.append((body, (x, y, z)))
        places.append((tree.neutral_frames[body] @ frame)[:3, 3])
    way = sum(float(np.linalg.norm(b - a)) for a, b in itertools.pairwise(places))
    return CableArrays(
        points,
        [(tree.freedom(joint), lever) for joint, lever in cable.winds.items()],
        way if cable.length is None else cable.length,
        math.inf if cable.stiffness is None else cable.stiffness,
        cable.damping,
        cable.both_ways,
    )


def _law(robot: Robot, force: Force, tree: Tree) -> LawArrays:
    action = force.action(robot, tree)
    return LawArrays(
        force.law,
        action.body,
        action.freedom,
        np.ascontiguousarray(action.frame, dtype=float),
        np.array(action.numbers, dtype=float),
        np.ascontiguousarray(action.points, dtype=float),
        np.ascontiguousarray(action.volumes, dtype=float),
    )
