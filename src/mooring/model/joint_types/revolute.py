"""A joint that turns between limits."""

from mooring.model.joint_types.joint_type import JointType

REVOLUTE = JointType("revolute", core="revolute", ends=True, urdf="revolute", color=2)
