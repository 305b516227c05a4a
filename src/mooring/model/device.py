"""Devices: what the control of a clamp, a gripper or a lock offers as two-valued signals."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import BeforeValidator, Field, ValidationInfo, model_validator

from mooring.model.definition.described import Described, Table, Value
from mooring.model.definition.fields import Duration
from mooring.model.definition.markers import GripName, JointQuantity, MovingJointName
from mooring.model.posture import BY_JOINT, Position, read_by_joint, read_positions

if TYPE_CHECKING:
    from mooring.model.robot import Robot


def _efforts(value: Any, info: ValidationInfo) -> Any:
    return read_by_joint(value, info, "effort")


Places = Annotated[Table[MovingJointName, Position], BeforeValidator(read_positions)]
Efforts = Annotated[
    Table[MovingJointName, Annotated[float, JointQuantity("effort")]],
    BeforeValidator(_efforts),
    BY_JOINT,
]


class DeviceInput(Value):
    """A signal that a controller sets, and what the device does when it becomes true.

    Attributes:
        joints: positions to go to, by joint [rad or m].
        otherwise: positions to go back to when it becomes false; without, joints stay where they
            are, as in a device with one input to open and one to close.
        grip: a suction cup or magnet that is on while it is true.
        delay: from the signal to the beginning of what it does [s].
        travel: how long the way takes [s]; the shortest time that the joints' velocity limits allow
            if not given.
    """

    joints: Places = Field(default_factory=dict)
    otherwise: Places = Field(default_factory=dict)
    grip: GripName | None = None
    delay: Duration = Field(default=0.0, ge=0)
    travel: Duration | None = Field(default=None, gt=0)

    @model_validator(mode="after")
    def _does_something(self) -> DeviceInput:
        if not self.joints and self.grip is None:
            raise ValueError("an input moves joints, or switches a grip")
        return self


class DeviceOutput(Value):
    """A signal that the device reports: true while all that is said of it holds.

    Attributes:
        above, below: positions that joints have reached or passed, by joint [rad or m].
        load: efforts that motors give, either way, by joint [N m or N].
        holds: a suction cup or magnet that holds something.
        delay: how long it has to hold before it is reported [s].
    """

    above: Places = Field(default_factory=dict)
    below: Places = Field(default_factory=dict)
    load: Efforts = Field(default_factory=dict)
    holds: GripName | None = None
    delay: Duration = Field(default=0.0, ge=0)

    @model_validator(mode="after")
    def _depends_on_something(self) -> DeviceOutput:
        if not (self.above or self.below or self.load or self.holds):
            raise ValueError("an output tells of above, below, load or holds")
        return self


class Device(Described):
    """What the control of a clamp, a gripper or a lock offers: two-valued signals.

    A signal's whole name is that of the device, a dot, and its own: `clamp.open`. Signals are
    looked at every 5 ms, as by the control of a machine.

    Attributes:
        name: unique among the robot's devices.
        inputs: signals that are set from outside, by name.
        outputs: signals that report, by name.
    """

    name: str = Field(exclude=True)
    inputs: Table[str, DeviceInput] = Field(default_factory=dict)
    outputs: Table[str, DeviceOutput] = Field(default_factory=dict)

    @model_validator(mode="after")
    def _has_signals(self) -> Device:
        if not self.inputs and not self.outputs:
            raise ValueError("a device has inputs or outputs")
        for twice in self.inputs.keys() & self.outputs.keys():
            raise ValueError(f"{twice!r} is an input and an output")
        return self

    def undriven(self, robot: Robot) -> Iterator[tuple[str, str]]:
        """Signals that come to nothing, as no motor does what they need: their names, and why."""
        modes = {motor.joint: motor.mode for motor in robot.motors.values()}
        for name, signal in self.inputs.items():
            for joint in sorted(signal.joints.keys() | signal.otherwise.keys()):
                limits = robot.joints[joint].limits
                if joint not in modes:
                    yield name, f"no motor drives {joint!r}"
                elif modes[joint] not in ("position", "motion"):
                    yield name, f"the motor of {joint!r} is driven by {modes[joint]}"
                elif signal.travel is None and (limits is None or not limits.velocity):
                    yield name, f"no travel is given, and {joint!r} has no velocity limit"
        for name, report in self.outputs.items():
            for joint in report.load.keys() - modes.keys():
                yield name, f"no motor drives {joint!r}, so that nothing tells its load"
