"""What a simulation can be told while it runs."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import ArrayLike

from mooring.arguments import proven_methods
from mooring.errors import ModelError, did_you_mean, told
from mooring.geometry import Array
from mooring.kinematics import configuration, link_poses, loop_freedoms
from mooring.model.motion import Drive as WheelDrive
from mooring.simulation.commanding.courses import read_course
from mooring.simulation.commanding.drives import Drive
from mooring.simulation.timeline.wheels import wheel_speeds
from mooring.units import to_si

if TYPE_CHECKING:
    from mooring._native.simulation import Simulation as Native
    from mooring.model import Robot
    from mooring.simulation.commanding.bonds import Bonds
    from mooring.simulation.commanding.courses import Courses
    from mooring.simulation.commanding.devices import Devices
    from mooring.simulation.commanding.grips import Grips
    from mooring.simulation.stepping.arrays import Commands
    from mooring.tree import Tree


@proven_methods
class Commanded(ABC):
    """The part of a simulation that is told what to do; see `Simulation`."""

    robot: Robot
    tree: Tree
    native: Native
    driven: list[str]
    drives: dict[str, Drive]
    commands: Commands
    courses: Courses
    devices: Devices
    grips: Grips
    bonds: Bonds

    @property
    @abstractmethod
    def time(self) -> float:
        """[s]"""

    def pose(self, link: str) -> Array:
        """Where a link is now, (4, 4).

        Raises:
            ModelError: no link has that name.
        """
        number = self.tree.link(link)
        return np.asarray(link_poses(self.tree, self.native.q)[number])

    def command(
        self,
        positions: Mapping[str, float | str] | None = None,
        velocities: Mapping[str, float | str] | None = None,
        efforts: Mapping[str, float | str] | None = None,
    ) -> None:
        """Tell motors what to do, by joint; they do it until told otherwise.

        A motor by position goes to its position (and, with a velocity, passes it at that speed), a
        motor by velocity keeps its velocity; efforts are added to what motors do by themselves, and
        are all that a motor by effort does. Motors told a position or velocity no longer follow the
        motion.

        Args:
            positions: [rad or m].
            velocities: [rad/s or m/s].
            efforts: [N m or N].

        Raises:
            ModelError: no motor drives such a joint, or a value is wrong; nothing is changed then.
        """
        commands = self.commands
        read = [
            (what, drive := self.drive(joint), drive.read(what, value), out)
            for what, said, out in (
                ("position", positions, commands.position),
                ("velocity", velocities, commands.velocity),
                ("effort", efforts, commands.effort),
            )
            for joint, value in (said or {}).items()
        ]
        if not read:
            return
        # As lists, since single entries of arrays are slow.
        held, q = commands.held.tolist(), self.native.q
        told: set[int] = set()
        for what, drive, value, out in read:
            motor = drive.motor
            if what != "effort" and motor not in told:
                told.add(motor)
                if not held[motor]:
                    commands.position[motor] = q[drive.place]
                self.courses.on.pop(drive.joint, None)
            out[motor] = value
        motors = [drive.motor for _, drive, _, _ in read]
        commands.relaxed[motors] = False
        places = list(told)
        commands.held[places] = True
        speeds = {drive.motor for what, drive, _, _ in read if what == "velocity"}
        commands.velocity[[motor for motor in places if motor not in speeds]] = 0.0

    def follow(self, courses: Mapping[str, Sequence[tuple[float | str, float | str]]]) -> None:
        """Let motors by position pass through positions at times from now on, smoothly.

        Args:
            courses: by joint, a list of times from now [s] and positions [rad or m].

        Raises:
            ModelError: no motor by position drives such a joint, or a value is wrong; nothing is
                changed then.

        Example:
            `simulation.follow({"slew": [(1.0, "20 deg"), (2.5, 0.0)]})`
        """
        self.courses.follow(
            {joint: read_course(rows, self.drive(joint)) for joint, rows in courses.items()}
        )

    def go(
        self,
        goal: str | Mapping[str, float | str],
        over: float | str | None = None,
    ) -> None:
        """Bring joints to a posture, or to positions by joint, from rest to rest.

        Args:
            goal: the name of a posture, or positions [rad or m].
            over: how long it takes [s]; the shortest time that velocity limits allow if not given.

        Raises:
            ModelError: no posture has that name, no motor by position drives such a joint, or a
                value is wrong; nothing is changed then.
        """
        if isinstance(goal, str):
            said = self.robot.posture(goal)
            reached = configuration(self.robot, goal, self.tree)
            positions = {
                joint: float(reached[drive.place])
                for joint, drive in self.drives.items()
                if drive.goes_to_positions
            }
            for joint in said.keys() - positions.keys():
                if not self._is_led(joint):
                    raise ModelError(f"no motor brings {joint!r} to its position in {goal!r}")
        else:
            positions = {j: self.drive(j).read("position", value) for j, value in goal.items()}
        span = None if over is None else to_si(over, "time")
        if span is not None and not (math.isfinite(span) and span > 0):
            raise ModelError(f"a way takes a time greater than zero, got {told(over)}")
        self.courses.go(positions, span, self.time)

    def _is_led(self, joint: str) -> bool:
        """Whether a coupling or loop moves it."""
        return bool(loop_freedoms(self.tree)[self.tree.freedom(joint)])

    def roll(self, wheels: Sequence[str], forward: float | str, turn: float | str = 0.0) -> None:
        """Go on wheels until told otherwise, as `drive` of a motion.

        Args:
            wheels: joints that turn them, with motors by position or velocity.
            forward: speed along x of the robot's root [m/s].
            turn: turning speed about its z, positive to the left [rad/s].

        Raises:
            ModelError: a joint turns no wheel, or no motor that hears velocities drives it.
        """
        wheels_ = WheelDrive(wheels=tuple(wheels), forward=forward, turn=turn)  # type: ignore[arg-type]
        for joint in wheels_.wheels:
            self.drive(joint).read("velocity", 0.0)
        speeds = wheel_speeds(self.robot, self.tree, wheels_)
        for joint in wheels_.wheels:
            speed = float(speeds[self.tree.freedom(joint)])
            if self.drive(joint).goes_to_positions:
                self.courses.roll({joint: speed})
            else:
                self.command(velocities={joint: speed})

    def relax(self, *joints: str) -> None:
        """Let motors give no effort at all until they are told something; all if none is named.

        Raises:
            ModelError: no motor drives such a joint.
        """
        for drive in [self.drive(joint) for joint in joints or self.driven]:
            self.courses.on.pop(drive.joint, None)
            self.commands.relaxed[drive.motor] = True

    def hold(self, *joints: str) -> None:
        """Let motors keep joints where they are now; all if none is named.

        Motors by velocity stop, and motors by effort, which cannot hold, give none.

        Raises:
            ModelError: no motor drives such a joint.
        """
        commands = self.commands
        for drive in [self.drive(joint) for joint in joints or self.driven]:
            motor = drive.motor
            self.courses.on.pop(drive.joint, None)
            commands.relaxed[motor], commands.held[motor] = False, True
            commands.position[motor] = self.native.q[drive.place]
            commands.velocity[motor] = commands.effort[motor] = 0.0

    def signal(self, name: str, value: bool) -> None:
        """Set an input of a device.

        Args:
            name: whole: `clamp.open`.
            value: true or false.

        Raises:
            ModelError: no device has such an input.
        """
        self.devices.set(name, value)

    @property
    def signals(self) -> dict[str, bool]:
        """All signals of devices, by whole name."""
        return dict(self.devices.signals)

    @property
    def held(self) -> dict[str, str]:
        """The link that each suction cup or magnet holds, by its name; empty for none."""
        return dict(self.grips.held)

    def follow_motion(self, *joints: str) -> None:
        """Let motors follow the motion again; all of them if none is named."""
        for joint in joints or self.driven:
            motor = self.drive(joint).motor
            self.commands.held[motor] = self.commands.relaxed[motor] = False
            self.commands.effort[motor] = 0.0
            self.courses.on.pop(joint, None)

    def drive(self, joint: str) -> Drive:
        """The motor that drives a joint, and is on.

        Raises:
            ModelError: there is none.
        """
        if joint not in self.drives:
            if not self.drives:
                raise ModelError(f"no motor is on that could drive joint {joint!r}")
            hint = did_you_mean(joint, self.driven)
            raise ModelError(f"no motor drives joint {joint!r}{hint}")
        return self.drives[joint]

    def push(
        self,
        link: str,
        force: ArrayLike = (0.0, 0.0, 0.0),
        *,
        at: ArrayLike | None = None,
        moment: ArrayLike = (0.0, 0.0, 0.0),
    ) -> None:
        """Push a link until told otherwise.

        Args:
            link: which.
            force: (3,) [N], world axes.
            at: where, (3,) [m], in link coordinates; its centre of mass if not given.
            moment: besides that of the force, (3,) [N m].

        Raises:
            ModelError: no link has that name, or a value is not three finite numbers.
        """
        number = self.tree.link(link)
        pushed, turned = read_triple("the force", force), read_triple("the moment", moment)
        spot = self.tree.arrays.centre[number] if at is None else read_triple("where", at)
        pose = self.pose(link)
        place = pose[:3, :3] @ spot + pose[:3, 3]
        self.commands.push[number, :3] = np.cross(place, pushed) + turned
        self.commands.push[number, 3:] = pushed

    def grip(self, name: str, on: bool = True) -> None:
        """Switch a suction cup or magnet on or off.

        While it is on it takes what its link touches, and loses it when that is pulled harder than
        it holds.

        Raises:
            ModelError: no grip has that name.

        Example:
            `simulation.grip("cup")`, some steps, `simulation.grips.held["cup"]`.
        """
        self.grips.switch(name, on)

    def convey(self, name: str, speed: float | str) -> None:
        """Let a conveyor run at a speed from now on [m/s].

        Raises:
            ModelError: no conveyor has that name, or the speed is wrong.
        """
        conveyors = self.robot.conveyors
        if name not in conveyors:
            raise ModelError(f"no conveyor is called {name!r}{did_you_mean(name, list(conveyors))}")
        conveyor, value = conveyors[name], to_si(speed, "velocity")
        body = self.tree.link(conveyor.link)
        self.commands.belt.reshape(-1, 3)[body] = value * np.array(conveyor.direction)

    def attach(self, first: str, second: str) -> None:
        """Hold two links together as they are now.

        Raises:
            ModelError: no link has such a name, or both are one.
        """
        self.bonds.hold(first, second)

    def release(self, first: str, second: str) -> None:
        """Let two links go that were attached; they may never have been.

        Raises:
            ModelError: no link has such a name.
        """
        self.bonds.release(first, second)


_LARGEST = 1e12
"""Of a force [N], a moment [N m] or a coordinate [m] that is commanded."""


def read_triple(what: str, values: ArrayLike) -> Array:
    triple = np.ascontiguousarray(values, dtype=float)
    if triple.shape != (3,) or not np.isfinite(triple).all():
        raise ModelError(f"{what} is three finite numbers, got {told(values)}")
    if np.abs(triple).max() > _LARGEST:
        raise ModelError(f"{what} is larger than any machine's, got {told(values)}")
    return triple
