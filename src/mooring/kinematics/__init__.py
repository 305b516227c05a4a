"""Where the links are and how they move."""

from mooring.kinematics.configuration import configuration, home_configuration
from mooring.kinematics.dimensions import DimensionReport, compare_dimensions, measure
from mooring.kinematics.footprint import footprint
from mooring.kinematics.inverse import IkSolution, solve_ik
from mooring.kinematics.jacobian import jacobian
from mooring.kinematics.loops import (
    BranchPath,
    close_loops,
    follow_branch,
    loop_freedoms,
    loop_jacobian,
    loop_velocities,
)
from mooring.kinematics.mass_centre import centre_of_mass, centre_of_mass_jacobian
from mooring.kinematics.mechanism import DeadPoint, Mobility, dead_points, mobility
from mooring.kinematics.motion import acceleration, jacobian_rate, velocity
from mooring.kinematics.poses import frame_poses, link_poses
from mooring.kinematics.workspace import Workspace, workspace

__all__ = [
    "BranchPath",
    "DeadPoint",
    "DimensionReport",
    "IkSolution",
    "Mobility",
    "Workspace",
    "acceleration",
    "centre_of_mass",
    "centre_of_mass_jacobian",
    "close_loops",
    "compare_dimensions",
    "configuration",
    "dead_points",
    "follow_branch",
    "footprint",
    "frame_poses",
    "home_configuration",
    "jacobian",
    "jacobian_rate",
    "link_poses",
    "loop_freedoms",
    "loop_jacobian",
    "loop_velocities",
    "measure",
    "mobility",
    "solve_ik",
    "velocity",
    "workspace",
]
