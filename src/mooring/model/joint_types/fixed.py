"""A joint that does not move."""

from mooring.model.joint_types.joint_type import JointType

FIXED = JointType("fixed", core="fixed", ends=False, urdf="fixed", color=2)
