"""What a mechanism with loops can do: its freedoms and its dead points."""

from mooring.kinematics.mechanism.dead_points import DeadPoint, dead_points
from mooring.kinematics.mechanism.mobility import Mobility, mobility

__all__ = ["DeadPoint", "Mobility", "dead_points", "mobility"]
