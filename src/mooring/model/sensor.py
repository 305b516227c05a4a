"""Sensors: what they are, where they sit, and how well they measure."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from mooring.model.definition.described import Described
from mooring.model.definition.fields import Angle, Duration, Frequency, Length
from mooring.model.definition.markers import FrameName, JointName, LinkName


class _Sensor(Described):
    """What all sensors have.

    Attributes:
        name: unique among the robot's sensors.
        rate: measurements a second [Hz].
        latency: from a measurement to its being there to read [s].
    """

    name: str = Field(exclude=True)
    rate: Frequency = Field(gt=0)
    latency: Duration = Field(default=0.0, ge=0, allow_inf_nan=False)


class _Mounted(_Sensor):
    """A sensor on a link's own frame, or on a named frame.

    Attributes:
        link: the link it is fixed to, at the link's frame.
        frame: instead, the frame it sits on.
    """

    link: LinkName | None = None
    frame: FrameName | None = None

    @model_validator(mode="after")
    def _one_place(self) -> _Mounted:
        if (self.link is None) == (self.frame is None):
            raise ValueError("give either the link or the frame it sits on")
        return self


class Imu(_Mounted):
    """Measures specific force and angular rate.

    Attributes:
        kind: imu.
        force_bias: what it adds to the specific force, in its own axes [m/s^2].
        rate_bias: what it adds to the angular rate [rad/s].
        force_noise: of the specific force, a density [m/s^2/sqrt(Hz)].
        rate_noise: of the angular rate, a density [rad/s/sqrt(Hz)].
        orientation: whether it gives its orientation too.
    """

    kind: Literal["imu"]
    force_bias: tuple[float, float, float] = (0.0, 0.0, 0.0)
    rate_bias: tuple[float, float, float] = (0.0, 0.0, 0.0)
    force_noise: float = Field(default=0.0, ge=0, allow_inf_nan=False)
    rate_noise: float = Field(default=0.0, ge=0, allow_inf_nan=False)
    orientation: bool = False


class Encoder(_Sensor):
    """Measures a joint's position.

    Attributes:
        kind: encoder.
        joint: whose.
        counts: steps a turn, or a metre; it is exact if not given.
    """

    kind: Literal["encoder"]
    joint: JointName
    counts: int | None = Field(default=None, gt=0)


class JointTorque(_Sensor):
    """Measures the torque (or force) that a joint passes on along its axis, behind its gear.

    Attributes:
        kind: joint_torque.
        joint: which one.
        noise: standard deviation [N m or N].
    """

    kind: Literal["joint_torque"]
    joint: JointName
    noise: float = Field(default=0.0, ge=0, allow_inf_nan=False)


class ForceTorque(_Sensor):
    """Measures the force and torque that a joint passes on to its child, in the child's frame.

    Attributes:
        kind: force_torque.
        joint: which one; a fixed joint does as well.
        force_noise: standard deviation of each force [N].
        moment_noise: of each moment [N m].
    """

    kind: Literal["force_torque"]
    joint: JointName
    force_noise: float = Field(default=0.0, ge=0, allow_inf_nan=False)
    moment_noise: float = Field(default=0.0, ge=0, allow_inf_nan=False)


class ContactSensor(_Sensor):
    """Tells what a link touches, and how hard.

    Attributes:
        kind: contact.
        link: which one.
    """

    kind: Literal["contact"]
    link: LinkName


class RangeScanner(_Mounted):
    """Measures distances along rays that fan out about the z axis of its frame.

    Attributes:
        kind: range_scanner.
        field: angle of the fan [rad], with its middle along x.
        rays: how many in a layer.
        layers: how many fans, one above the other.
        layer_field: angle from the lowest to the highest layer [rad].
        nearest, farthest: distances it can measure [m]; it looks through what is nearer.
        noise: standard deviation of a distance [m].
    """

    kind: Literal["range_scanner"]
    field: Angle = Field(gt=0, le=6.283185307179587)
    rays: int = Field(ge=2, le=100_000)
    layers: int = Field(default=1, ge=1, le=1024)
    layer_field: Angle = Field(default=0.0, ge=0, allow_inf_nan=False)
    nearest: Length = Field(default=0.0, ge=0, allow_inf_nan=False)
    farthest: Length = Field(default=30.0, gt=0)
    noise: Length = Field(default=0.0, ge=0, allow_inf_nan=False)

    @model_validator(mode="after")
    def _nearest_is_nearer(self) -> RangeScanner:
        if self.nearest >= self.farthest:
            raise ValueError("nearest must be nearer than farthest")
        return self


class CameraSensor(_Mounted):
    """Takes pictures along the x axis of its frame, z up.

    Attributes:
        kind: camera.
        field: horizontal angle of view [rad].
        size: width and height [pixels].
        channels: what a picture holds: color, depth, label.
    """

    kind: Literal["camera"]
    field: Angle = Field(gt=0, lt=3.141592653589793)
    size: tuple[int, int] = (640, 480)
    channels: tuple[Literal["color", "depth", "label"], ...] = ("color",)

    @model_validator(mode="after")
    def _size_makes_sense(self) -> CameraSensor:
        if min(self.size) < 1 or max(self.size) > 8192:
            raise ValueError("the size must be from 1 to 8192 pixels")
        return self


Sensor = Imu | Encoder | JointTorque | ForceTorque | ContactSensor | RangeScanner | CameraSensor

SENSOR_KINDS: dict[str, type[Sensor]] = {
    "imu": Imu,
    "encoder": Encoder,
    "joint_torque": JointTorque,
    "force_torque": ForceTorque,
    "contact": ContactSensor,
    "range_scanner": RangeScanner,
    "camera": CameraSensor,
}
