"""Sensors: a file each. A new one is a file here and a name in `SENSORS`."""

from mooring.model.definition.variants import Variants, kind_of
from mooring.model.sensors.camera import CameraSensor
from mooring.model.sensors.contact import ContactSensor
from mooring.model.sensors.encoder import Encoder
from mooring.model.sensors.force_torque import ForceTorque
from mooring.model.sensors.imu import Imu
from mooring.model.sensors.joint_torque import JointTorque
from mooring.model.sensors.range_scanner import RangeScanner
from mooring.model.sensors.sensor import Mount, Mounted, OnJoint, Sensor, Surroundings, View

__all__ = [
    "SENSORS",
    "CameraSensor",
    "ContactSensor",
    "Encoder",
    "ForceTorque",
    "Imu",
    "JointTorque",
    "Mount",
    "Mounted",
    "OnJoint",
    "RangeScanner",
    "Sensor",
    "Surroundings",
    "View",
]

SENSORS: Variants[type[Sensor]] = Variants(
    "sensor", Sensor, kind_of,
    Imu, Encoder, JointTorque, ForceTorque, ContactSensor, RangeScanner, CameraSensor,
)  # fmt: skip
