"""Ground for a robot by itself."""

from __future__ import annotations

import numpy as np

from mooring.geometry import Array, apply
from mooring.kinematics import link_poses
from mooring.model import Robot
from mooring.model.scene import Ground, Scene
from mooring.model.shapes import corners_of
from mooring.tree import Tree
from mooring.tree.arrays import FLOATING


def ground_of(scene: Scene, tree: Tree, q: Array) -> Ground | None:
    """What a scene stands on; for a robot by itself that floats, level ground just below it.

    Args:
        scene: which.
        tree: of what is in it.
        q: how it stands, (n,).
    """
    if scene.ground is not None or not scene.alone:
        return scene.ground
    return ground_below(scene.robot, tree, q)


def ground_below(robot: Robot, tree: Tree, q: Array) -> Ground | None:
    """Level ground just below the lowest collision shape; None for a robot that does not float.

    Args:
        robot, tree: what stands on it.
        q: how it stands, (n,).
    """
    if tree.arrays.kind[0] != FLOATING:
        return None
    poses = link_poses(tree, q)
    lowest = np.inf
    for body, name in enumerate(tree.links):
        corners = corners_of(robot.links[name].collisions, tree.neutral_frames[body])
        lowest = min(lowest, float(apply(poses[body], corners)[:, 2].min(initial=np.inf)))
    return Ground(height=lowest) if np.isfinite(lowest) else None
