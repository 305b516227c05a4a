"""URDF, the Unified Robot Description Format."""

from mooring.formats.urdf.editor import UrdfEditor
from mooring.formats.urdf.read import read_urdf
from mooring.formats.urdf.write import write_urdf

__all__ = ["UrdfEditor", "read_urdf", "write_urdf"]
