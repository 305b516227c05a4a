"""Couplings and closures: which positions and velocities they leave, and how a mechanism moves."""

from mooring.kinematics.loops.closing import LOOP_TOLERANCE, closed, loop_freedoms
from mooring.kinematics.loops.equations import loop_jacobian
from mooring.kinematics.loops.following import Way, follow
from mooring.kinematics.loops.velocities import loop_velocities

__all__ = [
    "LOOP_TOLERANCE",
    "Way",
    "closed",
    "follow",
    "loop_freedoms",
    "loop_jacobian",
    "loop_velocities",
]
