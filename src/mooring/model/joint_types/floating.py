"""A joint that constrains nothing."""

from mooring.model.joint_types.joint_type import JointType

FLOATING = JointType("floating", core="floating", ends=False, urdf="floating", color=2)
