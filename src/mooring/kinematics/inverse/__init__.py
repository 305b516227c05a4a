"""Inverse kinematics: the joint positions that bring a frame to a target."""

from mooring.kinematics.inverse.solution import IkSolution
from mooring.kinematics.inverse.solve import solve_ik

__all__ = ["IkSolution", "solve_ik"]
