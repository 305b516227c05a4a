"""Where the links are and how they move."""

from mooring.kinematics.configuration import closed, configuration, loop_freedoms
from mooring.kinematics.footprint import footprint
from mooring.kinematics.jacobian import jacobian
from mooring.kinematics.poses import frame_poses, link_poses

__all__ = [
    "closed",
    "configuration",
    "footprint",
    "frame_poses",
    "jacobian",
    "link_poses",
    "loop_freedoms",
]
