"""Where a machine that stands on the ground touches it."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from mooring.arguments import proven
from mooring.errors import ModelError
from mooring.geometry import apply, inverse, placement
from mooring.kinematics.configuration import configuration
from mooring.kinematics.poses import link_poses
from mooring.model import Placement, Robot
from mooring.model.shapes import corners_of


@proven
def footprint(
    robot: Robot, link: str, posture: str | Mapping[str, float | str] | None = None
) -> Placement:
    """The place of a frame below a link, on the lowest point of the whole robot.

    It looks where the link looks (its x axis, made level), and its z axis points up.

    Args:
        robot: with shapes to see.
        link: the link the frame is fixed to.
        posture: in which the robot stands.

    Returns:
        The place on the link.

    Raises:
        ModelError: no link has that name, or the robot has no shapes.
        UnsoundRobotError: the robot is no tree.

    Example:
        `robot.add_frame("footprint", link="hull", at=footprint(robot, "hull", "standing"))`
    """
    tree = robot.tree()
    frames = robot.link_frames()
    poses = link_poses(tree, configuration(robot, posture, tree))
    lowest = np.inf
    for name, pose in zip(tree.links, poses, strict=True):
        corners = corners_of(robot.links[name].shown(robot.materials), frames[name])
        lowest = min(lowest, float(apply(pose, corners)[:, 2].min(initial=np.inf)))
    if not np.isfinite(lowest):
        raise ModelError(f"{robot.name} has no shapes, so nothing tells where it stands")
    own = poses[tree.link(link)]
    ahead = own[:3, 0] * (1.0, 1.0, 0.0)
    length = float(np.linalg.norm(ahead))
    x = ahead / length if length > 1e-6 else np.array([1.0, 0.0, 0.0])
    up = np.array([0.0, 0.0, 1.0])
    ground = placement((own[0, 3], own[1, 3], lowest), np.column_stack([x, np.cross(up, x), up]))
    return Placement(inverse(own) @ ground)
