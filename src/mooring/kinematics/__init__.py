"""Where the links are and how they move."""

from mooring.kinematics.configuration import closed, configuration, loop_coordinates
from mooring.kinematics.jacobian import jacobian
from mooring.kinematics.poses import link_poses

__all__ = ["closed", "configuration", "jacobian", "link_poses", "loop_coordinates"]
