"""Building a robot item by item.

Every `add_...` method has a twin `describe_...` that takes a mapping, as a document holds it.
"""

from mooring.model.robot.building.driving import Driving
from mooring.model.robot.building.joints import Joints
from mooring.model.robot.building.links import Links
from mooring.model.robot.building.mounting import Mounting
from mooring.model.robot.building.ties import Ties

__all__ = ["Driving", "Joints", "Links", "Mounting", "Ties"]
