"""A joint that turns without end."""

from mooring.model.joint_types.joint_type import JointType

CONTINUOUS = JointType("continuous", core="revolute", ends=False, urdf="continuous", color=2)
