"""Joint positions that lead frames along straight lines."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from mooring.errors import ModelError
from mooring.geometry import Array, placement, rotation_from_rpy
from mooring.kinematics import link_poses, solve_ik
from mooring.kinematics.on_links import place_on
from mooring.model import Robot
from mooring.model.motion import ReachTarget
from mooring.tree import Tree

_FINE = 0.02
"""Between two solved points of a line [m]."""
_TURN = 0.05
"""[rad]"""
_FEWEST, _MOST = 8, 200


def straight_way(
    robot: Robot, tree: Tree, targets: Mapping[str, ReachTarget], q: Array
) -> tuple[Array, list[Array]]:
    """Lead frames from where they are to their targets.

    Args:
        robot, tree: whose joints.
        targets: by frame.
        q: positions to begin with, (n,).

    Returns:
        Shares of the time, (k,), from 0 to 1, and the positions there; the way along the lines
        goes by the quintic.

    Raises:
        ModelError: a frame cannot go there.
    """
    from scipy.spatial.transform import Rotation

    poses = link_poses(tree, q)
    lines = {}
    count = _FEWEST
    for frame, target in targets.items():
        body, on_body = place_on(tree, frame)
        start = poses[body] @ on_body
        carrier = np.eye(4) if target.on is None else poses[tree.link(target.on)]
        turn = (
            start[:3, :3] if target.rpy is None else carrier[:3, :3] @ rotation_from_rpy(target.rpy)
        )
        goal = placement((carrier @ [*target.xyz, 1.0])[:3], turn)
        lines[frame] = (start, goal, target.rpy is not None)
        way = float(np.linalg.norm(goal[:3, 3] - start[:3, 3]))
        angle = float(Rotation.from_matrix(start[:3, :3].T @ turn).magnitude())
        count = max(count, int(np.ceil(way / _FINE)), int(np.ceil(angle / _TURN)))
    shares = np.linspace(0, 1, min(count, _MOST) + 1)
    along = shares**3 * (10 + shares * (6 * shares - 15))
    states = [q]
    for share in along[1:]:
        here = states[-1]
        for frame, (start, goal, oriented) in lines.items():
            here = _solved(robot, tree, frame, start, goal, oriented, float(share), here)
        states.append(here)
    return shares, states


def _solved(
    robot: Robot, tree: Tree, frame: str, start: Array, goal: Array, oriented: bool, share: float,
    near: Array,
) -> Array:  # fmt: skip
    place = (1 - share) * start[:3, 3] + share * goal[:3, 3]
    target: Array = place
    if oriented:
        from scipy.spatial.transform import Rotation

        first = Rotation.from_matrix(start[:3, :3])
        whole = (first.inv() * Rotation.from_matrix(goal[:3, :3])).as_rotvec()
        target = placement(place, (first * Rotation.from_rotvec(share * whole)).as_matrix())
    found = solve_ik(robot, frame, target, near=near, starts=1, tree=tree, tolerance=(1e-5, 1e-4))
    if not found.reached:
        raise ModelError(
            f"{frame!r} cannot go straight to where it is to reach: after {100 * share:.0f}% "
            f"of the way {found}"
        )
    return found.q
