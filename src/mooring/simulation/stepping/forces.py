"""From cables, closures that give and forces with a law to what the compiled core works on."""

from __future__ import annotations

import itertools
import math

import numpy as np

from mooring.errors import ModelError
from mooring.geometry import Array, placement
from mooring.model import Buoyancy, Cable, Closure, Drag, Force, Robot, RotorThrust
from mooring.simulation.stepping.arrays import CableArrays, ForceArrays, LawArrays
from mooring.tree import Tree

ROTOR, DRAG, BUOYANCY = 0, 1, 2
_NO_POINTS, _NO_VOLUMES = np.zeros((0, 3)), np.zeros(0)


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
    if isinstance(force, RotorThrust):
        body, frame = tree.frames[force.frame]
        return LawArrays(
            ROTOR, body, tree.freedom(force.joint), np.ascontiguousarray(frame),
            np.array([force.thrust, force.moment, 0.0]), _NO_POINTS, _NO_VOLUMES,
        )  # fmt: skip
    body = tree.link(force.link)
    if isinstance(force, Drag):
        return LawArrays(
            DRAG, body, -1, placement(force.at),
            np.array([force.linear, force.quadratic, force.turning]), _NO_POINTS, _NO_VOLUMES,
        )  # fmt: skip
    points, volumes, edge = _pieces(robot, force, tree)
    return LawArrays(
        BUOYANCY, body, -1, np.eye(4), np.array([force.density, force.level, edge]), points, volumes
    )


def _pieces(robot: Robot, force: Buoyancy, tree: Tree) -> tuple[Array, Array, float]:
    """Middles (k, 3) and volumes (k,) of the pieces of a link's shapes, and their longest edge."""
    from scipy.spatial import ConvexHull

    points, volumes, edge = [], [], 0.0
    taken: list[tuple[Array, Array]] = []
    link_frame = tree.neutral_frames[tree.link(force.link)]
    for placed in robot.links[force.link].collisions:
        pose = placed.in_link(link_frame)
        hull = ConvexHull(placed.shape.mesh.vertices)
        lowest, highest = hull.points.min(axis=0), hull.points.max(axis=0)
        side = float((highest - lowest).max()) / force.fineness
        counts = np.maximum(1, np.ceil((highest - lowest) / side - 1e-9)).astype(int)
        axes = [
            low + (np.arange(n) + 0.5) * (high - low) / n
            for low, high, n in zip(lowest, highest, counts, strict=True)
        ]
        grid = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3)
        normals, offsets = hull.equations[:, :3], hull.equations[:, 3]
        inside = grid[(grid @ normals.T + offsets <= 1e-9).all(axis=1)]
        if not len(inside):
            continue
        # Pieces at the edge are whole or left out; together they are as large as the shape.
        volume = hull.volume / len(inside)
        here = inside @ pose[:3, :3].T + pose[:3, 3]
        # Where shapes overlap, the water is displaced once.
        for frame, faces in taken:
            local = (here - frame[:3, 3]) @ frame[:3, :3]
            here = here[~(local @ faces[:, :3].T + faces[:, 3] <= 1e-9).all(axis=1)]
        taken.append((pose, hull.equations))
        points.append(here)
        volumes.append(np.full(len(here), volume))
        edge = max(edge, side)
    if not points:
        raise ModelError(
            f"{force.link!r} has no collision shapes, so it displaces no water; give it some "
            f"(collision), or take the force {force.name!r} off"
        )
    return (
        np.ascontiguousarray(np.concatenate(points)), np.concatenate(volumes), edge
    )  # fmt: skip
