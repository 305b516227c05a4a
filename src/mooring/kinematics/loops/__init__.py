"""Couplings and closures: which positions and velocities they leave, and how a mechanism moves."""

from mooring.kinematics.loops.closing import LOOP_TOLERANCE, close_loops, loop_freedoms
from mooring.kinematics.loops.equations import loop_jacobian
from mooring.kinematics.loops.following import BranchPath, follow_branch
from mooring.kinematics.loops.velocities import loop_velocities

__all__ = [
    "LOOP_TOLERANCE",
    "BranchPath",
    "close_loops",
    "follow_branch",
    "loop_freedoms",
    "loop_jacobian",
    "loop_velocities",
]
