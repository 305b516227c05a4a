"""How fast wheels turn for a robot to go somewhere."""

from __future__ import annotations

import numpy as np

from mooring.errors import ModelError
from mooring.geometry import Array, apply
from mooring.kinematics import link_poses
from mooring.model import Robot
from mooring.model.motion import Drive
from mooring.model.shapes import corners_of
from mooring.model.structure import carrier_of
from mooring.tree import Tree


def wheel_speeds(robot: Robot, tree: Tree, drive: Drive) -> Array:
    """Speeds of all freedoms (m,) that roll wheels without slipping.

    The robot's own motion is that of the link that its wheels are joined to: forward along its x,
    turning about its z. A wheel's radius is that of its shapes about its axis.

    Raises:
        ModelError: a joint turns no wheel: it does not turn, or about an axis that stands upright.
    """
    q = tree.neutral()
    poses = link_poses(tree, q)
    frames = robot.link_frames()
    speeds = np.zeros(len(tree.freedoms))
    for name in drive.wheels:
        joint = robot.joints[name]
        if not joint.turns:
            raise ModelError(f"joint {name!r} turns no wheel: it is {joint.type}")
        link = robot.links[joint.child]
        shapes = link.collisions or link.shown(robot.materials)
        corners = apply(poses[tree.link(joint.child)], corners_of(shapes, frames[joint.child]))
        carrier = poses[tree.link(carrier_of(robot, joint.parent))]
        wheel = poses[tree.link(joint.child)]
        axis = wheel[:3, :3] @ joint.axis
        arms = corners - wheel[:3, 3]
        along = arms @ axis if len(arms) else np.zeros(1)
        middle = wheel[:3, 3] + axis * (along.min() + along.max()) / 2
        radius = float(np.linalg.norm(arms - np.outer(arms @ axis, axis), axis=1).max(initial=0.0))
        ahead = np.cross(axis, carrier[:3, 2])
        if radius < 1e-6 or np.linalg.norm(ahead) < 0.1:
            raise ModelError(f"joint {name!r} turns no wheel: it has no radius, or lies flat")
        ahead /= np.linalg.norm(ahead)
        reach = middle - carrier[:3, 3]
        going = drive.forward * carrier[:3, 0] + np.cross(drive.turn * carrier[:3, 2], reach)
        speeds[tree.freedom(name)] = going @ ahead / radius
    return speeds
