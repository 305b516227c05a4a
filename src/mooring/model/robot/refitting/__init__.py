"""Robots that come from elsewhere made good: weighed, simplified, with other roots, merged."""

from mooring.model.robot.refitting.merging import merged
from mooring.model.robot.refitting.meshes import set_mesh_unit, simplify
from mooring.model.robot.refitting.rerooting import rerooted
from mooring.model.robot.refitting.weighing import weigh

__all__ = ["merged", "rerooted", "set_mesh_unit", "simplify", "weigh"]
