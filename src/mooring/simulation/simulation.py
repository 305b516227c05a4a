"""`Simulation`: a scene that is stepped by hand."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from os import PathLike
from pathlib import Path
from time import perf_counter
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from mooring import outlet
from mooring._native import simulation as kernels
from mooring.arguments import proven_methods
from mooring.brief import Brief
from mooring.errors import InputError, ModelError, RunError, did_you_mean, told
from mooring.kinematics import configuration, loop_freedoms
from mooring.model import MotionStep, Robot
from mooring.model.scene import LONGEST_STEP, SHORTEST_STEP, Ground, Scene, lifted
from mooring.simulation.commanding.bonds import Bonds
from mooring.simulation.commanding.commanded import Commanded, read_triple
from mooring.simulation.commanding.courses import Courses
from mooring.simulation.commanding.devices import Devices
from mooring.simulation.commanding.drives import drives_of
from mooring.simulation.commanding.grips import Grips
from mooring.simulation.contact.build import contact_arrays
from mooring.simulation.recording.recorder import Recorder
from mooring.simulation.recording.recording import Recording
from mooring.simulation.saving import SavedState
from mooring.simulation.sensing.build import sensor_arrays
from mooring.simulation.standing import ground_below, ground_of
from mooring.simulation.stepping.arrays import Commands, StepSettings, Watch
from mooring.simulation.stepping.build import (
    motor_arrays,
    refuse_falling,
    refuse_massless,
    refuse_rough,
)
from mooring.simulation.stepping.forces import belts, force_arrays
from mooring.simulation.timeline.build import Event, Plan, plan, resting
from mooring.threads import most_threads
from mooring.units import to_si

Stepper = Literal["robust", "accurate"]
Controller = Callable[["Simulation"], None]

# Steps, and time [s], between two looks at the clock and the keyboard.
CHUNK = 500
_LONGEST = 0.5
_MOST_SWEEPS = 200
_ACCURACY = 1e-7
_COARSEST = 1e-2


@dataclass(frozen=True, repr=False)
class Instant(Brief):
    """How everything is at one time, by name.

    Attributes:
        time: [s].
        positions: of joints [rad or m], and coordinates of what floats, such as `base.z`.
        velocities: of joints [rad/s or m/s], and of what floats, such as `base.wx`.
        efforts: of motors in the last step, by joint [N m or N].
    """

    time: float
    positions: dict[str, float]
    velocities: dict[str, float]
    efforts: dict[str, float]


@proven_methods
class Simulation(Commanded, outlet.Shown):
    """A robot or a scene under gravity, stepped by hand.

    Attributes:
        scene: what is simulated.
        robot: everything in it.
        tree: of the robot.
        plan: the motion its motors follow.
        seed: of everything random.
        start_q, start_v: where it starts, (n,), and how fast, (m,).
        stepper: `"robust"` or `"accurate"`.
        driven: names of the joints that have a motor that is on.
        drives: these motors, by joint.
        controllers: functions that are called, and after how many steps each.
        bonds: links that hold each other.
        grips: its suction cups and magnets, and what they hold.
        courses: where motors are on their way to, by joint.
        devices: the signals of its devices.
        ended: why it cannot go on; empty while it can.

    Example:
        >>> from mooring import demo, read
        >>> simulation = Simulation(read(demo.LINE_TENDER.document), posture="stowed")
        >>> simulation.command(positions={"slew": "5 deg"})
        >>> simulation.step(seconds=0.1)
        True
        >>> round(simulation.state.time, 6)
        0.1
        >>> kept = simulation.save()
        >>> simulation.step(100)
        True
        >>> simulation.restore(kept)
        >>> simulation.stop()
        >>> simulation.step(), simulation.ended
        (False, 'stopped by the user at 0.100 s')
        >>> simulation.reset()
        >>> simulation.hold_start()
        >>> simulation.step()
        True

        Of a robot with sensors `simulation.read("tilt")` is the latest measurement.
    """

    def __init__(
        self,
        what: Robot | Scene,
        *,
        motion: str | Sequence[MotionStep | Mapping[str, object]] | None = None,
        posture: str | Mapping[str, float | str] | None = None,
        velocities: Mapping[str, float] | None = None,
        powered: bool = True,
        step: float | str | None = None,
        rate: float | str | None = None,
        gravity: ArrayLike | None = None,
        ground: Ground | Literal["below", "none"] | None = None,
        contact: bool = True,
        stepper: Stepper = "robust",
        controllers: Sequence[tuple[Controller, float | str]] = (),
        seed: int | None = None,
        keep: float | str | None = None,
        journal: str | PathLike[str] | None = None,
        sleep: bool = True,
        threads: int | None = None,
        accuracy: float | str = _ACCURACY,
    ) -> None:
        """Set everything up; nothing moves yet.

        Args:
            what: a robot, or a scene.
            motion: the name of a motion of the robot, or its steps; that of the scene if not
                given. Without one, or with no steps, motors hold the posture it starts in.
            posture: where it starts; by default the scene's start, else the motion's first posture,
                else every joint at zero.
            velocities: of joints at the start [rad/s or m/s], and of what floats; others rest.
            powered: False leaves every motor off.
            step: time step; the scene's, or 1 ms.
            rate: of the recording; the scene's, or 100 Hz.
            gravity: (3,) [m/s^2]; the scene's.
            ground: a `Ground`, `"none"`, or `"below"`: level ground just below the lowest shape of
                a robot that floats. If not given that of the scene; for a robot by itself below it.
            contact: False lets everything pass through everything.
            stepper: `"robust"` has contacts, stops and dry friction, and its error is of order 1 in
                the step; `"accurate"` is Runge-Kutta of order 4 for smooth motion, has couplings
                and closures, and neither contacts nor stops.
            controllers: functions that are called with the simulation, each at its own rate.
            seed: of everything random; the scene's, or 0.
            keep: how much of the recording is kept; all if not given.
            journal: a new file that what is recorded is appended to while it runs. It spares
                memory, and `Recording.read` reads it should the run be cut off.
            sleep: let loose bodies that have rested on something for half a second (slower than
                1 mm/s) lie where they are, until something touches, pushes or holds them.
            threads: that may work on bodies that do not touch each other; as many as there are
                cores if not given. What comes out is the same with any number.
            accuracy: to which contacts and dry friction are solved in a step, of velocities [m/s
                or rad/s]; where much is to be tried, 1e-5 is several times as fast on wheels that
                turn on the spot.

        Raises:
            ModelError: an unknown motion, posture or joint, or a value that makes no sense.
            InputError: the journal cannot be written, or is there already.
            UnsoundRobotError: the robot is no tree, or something that moves has no mass.
            RunError: the loops of the robot cannot be closed in a posture.
        """
        scene = lifted(what)
        self.scene, self.robot = scene, scene.robot
        self.tree = tree = self.robot.tree()
        refuse_massless(tree)
        self.stepper = stepper
        if stepper == "accurate":
            refuse_rough(self.robot)
        elif stepper != "robust":
            raise ModelError(f"unknown stepper {stepper!r}; there are 'robust' and 'accurate'")
        said = scene.settings
        h, self.every = clock(
            said.step if step is None else step, said.rate if rate is None else rate
        )
        if rate is not None and to_si(rate, "frequency") * h > 1 + 1e-9:
            raise ModelError(f"a rate of {rate} is more than once in each step of {h:g} s")
        pull = read_triple("gravity", said.gravity if gravity is None else gravity)
        team = most_threads() if threads is None else threads
        if team < 1:
            raise ModelError(f"there must be at least one thread, got {threads}")
        within = to_si(accuracy, "velocity")
        if not 0 < within <= _COARSEST:
            raise ModelError(f"accuracy is above 0 and at most {_COARSEST:g} m/s, got {accuracy}")
        self.settings = StepSettings(pull, h, self.every, _MOST_SWEEPS, within, sleep, team)
        self.seed = said.seed if seed is None else seed
        if self.seed < 0:
            raise ModelError(f"the seed is at least 0, got {self.seed}")
        self._begin(motion, posture, velocities)
        ground_: Ground | None = None
        if ground is None:
            ground_ = ground_of(scene, tree, self.start_q)
        elif ground == "below":
            ground_ = ground_below(self.robot, tree, self.start_q)
        elif isinstance(ground, Ground):
            ground_ = ground
        elif ground != "none":
            raise ModelError(f"ground is 'below', 'none', or a Ground; got {told(ground)}")
        if stepper == "accurate" and contact:
            refuse_falling(self.robot, tree, ground_)
        self.ground = None if stepper == "accurate" else ground_
        self.motors = motor_arrays(self.robot, tree, powered, h)
        self.forces = force_arrays(self.robot, tree)
        self.contact = contact_arrays(
            self.robot, tree, self.ground, contact and stepper == "robust"
        )
        self.drives = drives_of(self.robot, tree, self.motors)
        self.driven = list(self.drives)
        self.sensors = sensor_arrays(self.robot, tree, h)
        self.controllers = [(call, _ticks(at, h)) for call, at in controllers]
        self._keep = math.inf if keep is None else to_si(keep, "time")
        if self._keep < 0:
            raise ModelError(f"keep is at least 0 s, got {keep}")
        self._journal = None if journal is None else Path(journal)
        if self._journal is not None and self._journal.exists():
            raise InputError(f"{journal}: is there already; a journal is a new file")
        self.reset()

    def __repr__(self) -> str:
        ended = f", {self.ended}" if self.ended else ""
        return f"<Simulation of {self.robot.name!r}: at {self.time:g} s{ended}>"

    def _begin(
        self,
        motion: str | Sequence[MotionStep | Mapping[str, object]] | None,
        posture: str | Mapping[str, float | str] | None,
        velocities: Mapping[str, float] | None,
    ) -> None:
        """Where to start, and where the targets go."""
        robot, tree = self.robot, self.tree
        motion = self.scene.motion if motion is None else motion
        steps: Sequence[MotionStep] = ()
        if isinstance(motion, str):
            if motion not in robot.motions:
                hint = did_you_mean(motion, list(robot.motions))
                raise ModelError(f"no motion is called {motion!r}{hint}")
            steps = robot.motions[motion]
        elif motion:
            steps = robot.read_motion("the motion", motion)
        if posture is None and self.scene.start:
            posture = self.scene.start
        elif posture is None and steps and steps[0].to is not None:
            posture = steps[0].to
        self.start_q = configuration(robot, posture, tree)
        self._rests = not steps
        if steps:
            self.plan = plan(robot, tree, steps, self.start_q)
        else:
            self.hold_start()
        undriven = self._undriven()
        if undriven:
            self.plan.notes.append(
                f"no motor moves {', '.join(undriven)}; the motion's targets for it do nothing"
            )
        self.start_v = np.zeros(len(tree.freedoms))
        for joint, value in (velocities or {}).items():
            if not math.isfinite(speed := float(value)):
                raise ModelError(f"the velocity of {joint!r} must be finite, got {told(value)}")
            self.start_v[tree.freedom(joint)] = speed

    def hold_start(self) -> None:
        """Let motors hold where they start, `start_q`, if they have no motion to follow."""
        if self._rests:
            self.plan = Plan(resting(self.tree, self.start_q), 5.0)

    def _undriven(self) -> list[str]:
        """Joints that the motion moves and nothing drives, directly or by a coupling or loop."""
        driven = {motor.joint for motor in self.robot.motors.values()}
        moved = np.ptp(self.plan.timeline.points, axis=0) > 1e-9
        tied = loop_freedoms(self.tree)
        return [
            name
            for name, moves, held in zip(self.tree.freedoms, moved, tied, strict=True)
            if moves and name not in driven and not held
        ]

    def reset(self, recording: Recording | None = None, time: float | str | None = None) -> None:
        """Go back to the start, or to an instant of a recording of the same robot.

        At its end, a recording has the whole state, and goes on as if it had never stopped. At
        other instants it has positions and velocities: contacts, motors, energies and the noise of
        sensors begin anew there, and commands, pushes and what was attached by hand are forgotten.

        Args:
            recording: where to go on from.
            time: of the instant [s]; the last one if not given.

        Raises:
            ModelError: the recording is of another robot, or has no such instant.
        """
        tree = self.tree
        self.native = native = kernels.Simulation(
            tree.native, self.motors, self.forces, self.contact, self.sensors, self.plan.timeline,
            self.settings, self.stepper == "accurate", self.start_q, self.start_v,
        )  # fmt: skip
        native.belt[:] = belts(self.robot, tree).ravel()
        self.commands = Commands(
            native.held, native.relaxed, native.position, native.velocity, native.added,
            native.belt, native.push,
        )  # fmt: skip
        self.bonds = Bonds(tree, native)
        self.grips = Grips(self)
        self.courses = Courses(self)
        self.devices = Devices(self)
        self.ended = ""
        self.end: SavedState | None = None
        self._takes = 1e-3
        self.recorder = Recorder(self, self._keep, self._journal)
        if recording is not None:
            at, row = recording.row_at(time)
            if recording.coordinates != list(tree.coordinates):
                raise ModelError(f"the recording is of {recording.robot!r}, another robot")
            end = recording.end
            if end is not None and (time is None or abs(end.time - at) < 0.5 * end.step):
                self.restore(end)
                return
            self.plan.notes.append(
                f"goes on from {at:g} s with the positions and velocities of the recording; "
                "contacts, motors, energies and the noise of sensors begin anew there"
            )
            native.q[:] = recording.positions()[row]
            native.v[:] = recording.velocities()[row]
            native.integral[:] = recording.integrals(list(self.driven))[row]
            native.steps = round(at / self.settings.step)
        for event in {(e.what, e.names): e for e in self.plan.due(0.0, self.time)}.values():
            if event.what != "attach" or event.value:
                self._happens(event)

    def save(self) -> SavedState:
        """The whole state, to be restored: for planners, and to go on later from a file.

        Example:
            `kept = simulation.save()`, some steps, `simulation.restore(kept)`.
        """
        return SavedState(
            self.time, self.settings.step, self.tree.coordinates, self.native.save(),
            dict(self.bonds.places), dict(self.bonds.limits), self.grips.save(),
            self.courses.save(), self.devices.save(), *self.recorder.save(),
        )  # fmt: skip

    def restore(self, saved: SavedState) -> None:
        """Go back, or on, to a saved state; what was recorded since then is forgotten.

        Raises:
            ModelError: the state is of another robot, or of another time step.
        """
        if saved.coordinates != self.tree.coordinates:
            raise ModelError("the saved state is of another robot")
        if saved.step != self.settings.step:
            raise ModelError(
                f"the saved state is for steps of {saved.step:g} s, not {self.settings.step:g} s"
            )
        try:
            self.native.restore(saved.core)
        except ValueError as error:
            raise ModelError(str(error)) from None
        self.bonds.places, self.bonds.limits = dict(saved.bonds), dict(saved.limits)
        self.grips.restore(saved.grips)
        self.courses.restore(saved.courses)
        self.devices.restore(saved.devices)
        self.ended = ""
        self.end = None
        self.recorder.restore(saved)

    @property
    def time(self) -> float:
        """[s]"""
        return self.native.steps * self.settings.step

    @property
    def watch(self) -> Watch:
        """What was noted so far for the diagnosis."""
        return Watch(**self.native.noted())

    @property
    def state(self) -> Instant:
        """How everything is now."""
        native = self.native
        return Instant(
            self.time,
            dict(zip(self.tree.coordinates, native.q.tolist(), strict=True)),
            dict(zip(self.tree.freedoms, native.v.tolist(), strict=True)),
            dict(zip(self.driven, native.effort.tolist(), strict=True)),
        )

    def step(self, count: int = 1, *, seconds: float | str | None = None) -> bool:
        """Go on by some steps, or by a time.

        Args:
            count: of steps.
            seconds: instead of a count [s], or with its unit.

        Returns:
            False when the motion exploded; the state is then the last sound one.
        """
        if seconds is not None:
            count = math.ceil(to_si(seconds, "time") / self.settings.step - 1e-9)
        if count < 0:
            raise ModelError(f"time goes forward only, got {count} steps")
        self.end = None
        until = self.native.steps + count
        while self.native.steps < until and not self.ended:
            self._act()
            self._advance(min(self._room(), until - self.native.steps))
        return not self.ended

    def _act(self) -> None:
        """What happens between two steps: controllers, and links that are attached or let go."""
        for event in self.plan.due(self.time, self.time + self.settings.step):
            self._happens(event)
        for call, ticks in tuple(self.controllers):
            if self.native.steps % ticks == 0:
                try:
                    call(self)
                except Exception as error:
                    name = getattr(call, "__qualname__", type(call).__name__)
                    error.add_note(f"raised by the controller {name} at {self.time:g} s")
                    raise
        self.devices.look()
        self.grips.look()
        self.courses.look()

    def _happens(self, event: Event) -> None:
        if event.what == "grip":
            self.grip(event.names[0], bool(event.value))
        elif event.what == "conveyor":
            self.convey(event.names[0], event.value)
        elif event.what == "signal":
            self.signal(event.names[0], bool(event.value))
        else:
            first, second = event.names
            (self.attach if event.value else self.release)(first, second)

    def _room(self) -> int:
        """Steps until something is to happen between two of them."""
        room = 1 if self.grips.seeking or self.courses.on else min(CHUNK, self.devices.room)
        room = min(room, max(1, int(_LONGEST / self._takes)))
        for _, ticks in self.controllers:
            room = min(room, ticks - self.native.steps % ticks)
        h = self.settings.step
        for event in self.plan.due(self.time + h, self.time + room * h)[:1]:
            room = min(room, max(1, math.ceil((event.time - self.time) / h - 1e-6)))
        return room

    def _advance(self, count: int) -> None:
        began = perf_counter()
        try:
            sound = self.native.run(count)[0]
        except RuntimeError as error:
            raise RunError(str(error)) from None
        self._takes = (perf_counter() - began) / count
        if not sound:
            self.ended = f"the motion exploded at {self.time:.3f} s"
        if self.recorder.due:
            self.recorder.take()

    def stop(self) -> None:
        """End the run here, as Ctrl-C does."""
        self.ended = f"stopped by the user at {self.time:.3f} s"

    def read(self, sensor: str) -> dict[str, float] | None:
        """The latest measurement of a sensor that has arrived by now, by name; None before any.

        Raises:
            ModelError: no sensor has that name.
        """
        return self.recorder.latest(sensor, self.time)

    @property
    def recording(self) -> Recording:
        """All that was recorded so far."""
        return self.recorder.recording()


def clock(step: float | str, rate: float | str) -> tuple[float, int]:
    """The time step [s], and how many steps lie between recorded instants."""
    h, hertz = to_si(step, "time"), to_si(rate, "frequency")
    if h <= 0 or hertz <= 0:
        raise ModelError("the step and the recording rate must be greater than zero")
    if not SHORTEST_STEP <= h <= LONGEST_STEP:
        raise ModelError(f"the step is from {SHORTEST_STEP:g} to {LONGEST_STEP:g} s, got {h:g} s")
    return h, max(1, round(1 / (hertz * h)))


def _ticks(rate: float | str, step: float) -> int:
    hertz = to_si(rate, "frequency")
    if hertz <= 0 or 1 / hertz < step * (1 - 1e-9):
        raise ModelError(
            f"a controller cannot be called {rate} times a second in steps of {step} s"
        )
    return round(1 / (hertz * step))
