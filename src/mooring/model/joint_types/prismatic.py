"""A joint that slides between limits."""

from mooring.model.joint_types.joint_type import JointType

PRISMATIC = JointType("prismatic", core="prismatic", ends=True, urdf="prismatic", color=1)
