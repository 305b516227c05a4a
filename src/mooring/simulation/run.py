"""`simulate`: a whole run in one call."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from mooring.compiling import compiles
from mooring.dynamics import STANDARD_GRAVITY
from mooring.errors import ModelError, UnsoundRobotError, did_you_mean
from mooring.geometry import Array
from mooring.kinematics import configuration, loop_freedoms
from mooring.model import MotionStep, Robot
from mooring.simulation.arrays import Columns, Ledger, MotorArrays, Timeline
from mooring.simulation.kernels import accurate, robust
from mooring.simulation.notes import notes_on
from mooring.simulation.recording import Recording, recording_of
from mooring.simulation.timeline import duration_of, resting, timeline_of
from mooring.tree import Tree
from mooring.units import to_si

Stepper = Literal["robust", "accurate"]
Progress = Callable[[float, float], None]

# Steps between two looks at the clock and the keyboard.
_CHUNK = 500


def simulate(
    robot: Robot,
    *,
    seconds: float | str | None = None,
    motion: str | Sequence[MotionStep] | None = None,
    posture: str | Mapping[str, float | str] | None = None,
    velocities: Mapping[str, float] | None = None,
    powered: bool = True,
    step: float | str = 1e-3,
    rate: float | str = 100.0,
    gravity: ArrayLike = (0.0, 0.0, -STANDARD_GRAVITY),
    stepper: Stepper = "robust",
    progress: Progress | None = None,
) -> Recording:
    """Run a robot under gravity, its motors following a motion.

    Args:
        robot: on a base that is fixed or floats.
        seconds: how long; by default as long as the motion takes, or 5 s without one.
        motion: the name of a motion of the robot, or its steps. Without one the motors hold the
            posture it starts in.
        posture: where it starts; by default the motion's first posture, else every joint at zero.
        velocities: of joints at the start [rad/s or m/s]; others are at rest.
        powered: False leaves every motor off.
        step: time step.
        rate: of the recording.
        gravity: (3,) [m/s^2].
        stepper: `"robust"` has stops, dry friction, couplings and closures, and its error is of
            order 1 in the step; `"accurate"` is Runge-Kutta of order 4 for smooth motion, and
            refuses what it does not have.
        progress: called now and then with the time reached and the time to reach [s].

    Returns:
        The recording; after Ctrl-C or a run that explodes what there is until then, and its notes
        say so.

    Raises:
        ModelError: an unknown motion, posture or joint, or a value that makes no sense.
        UnsoundRobotError: the robot is no tree, or something that moves has no mass.
        RunError: the loops of the robot cannot be closed in a posture.

    Example:
        >>> from mooring import demo, read
        >>> tender = read(demo.LINE_TENDER.document)
        >>> run = simulate(tender, posture="stowed", seconds=0.5)
        >>> float(run.table["loops.gap"].max()) < 1e-5
        True
    """
    tree = robot.tree()
    _refuse_massless(tree)
    h, every = _clock(step, rate)
    notes: list[str] = []
    start, timeline, length = _plan(robot, tree, motion, posture, notes)
    length = length if seconds is None else to_si(seconds, "time")
    if length <= 0:
        raise ModelError(f"a run must last longer than {length:g} s")
    motors = _motor_arrays(robot, tree, powered)
    if stepper == "accurate":
        _refuse_unsmooth(robot)
    elif stepper != "robust":
        raise ModelError(f"unknown stepper {stepper!r}; there are 'robust' and 'accurate'")
    speeds = np.zeros(len(tree.freedoms))
    for joint, value in (velocities or {}).items():
        speeds[tree.freedom(joint)] = float(value)
    pull = np.ascontiguousarray(gravity, dtype=float)

    count = max(1, math.ceil(length / h - 1e-9)) + 1
    columns = _columns(tree, motors, (count - 1) // every + 1)
    rows = len(tree.loops.follower) + int(tree.loops.held.sum()) + len(motors.p) + 3 * len(speeds)
    state = Ledger(
        start.copy(),
        speeds,
        np.zeros(rows, dtype=np.int64),
        np.zeros(len(motors.p)),
        np.full(len(motors.p), np.inf),
        np.zeros(3),
        np.full((len(speeds), 2), np.inf),
    )
    done = 0
    ended = ""
    try:
        while done < count:
            now = min(_CHUNK, count - done)
            taken = _advance(
                stepper, tree, motors, timeline, pull, h, done, now, every, state, columns
            )
            done += taken
            if progress is not None:
                progress(min(done * h, length), length)
            if taken < now:
                ended = f"the motion exploded at {done * h:.3f} s"
                break
    except KeyboardInterrupt:
        ended = f"stopped by the user at {done * h:.3f} s"
    recording = recording_of(
        robot.name, tree, motors, columns, (done - 1) // every + 1 if done else 0
    )
    recording.complete = not ended
    recording.notes = [
        *([ended] if ended else []),
        *notes,
        *notes_on(recording, tree, state.stop_time, state.tripped),
    ]
    return recording


@compiles("the time stepper")
def _advance(
    stepper: Stepper,
    tree: Tree,
    motors: MotorArrays,
    timeline: Timeline,
    gravity: Array,
    step: float,
    first: int,
    count: int,
    every: int,
    state: Ledger,
    columns: Columns,
) -> int:
    arguments = (motors, timeline, gravity, step, first, count, every, state, columns)
    if stepper == "accurate":
        return int(accurate.run(tree.arrays, tree.joints, tree.springs, *arguments))
    return int(robust.run(tree.arrays, tree.loops, tree.joints, tree.springs, *arguments))


def _refuse_massless(tree: Tree) -> None:
    """A moving link without mass has no answer to any force."""
    parents = tree.arrays.parent
    carried = tree.arrays.mass.copy()
    for body in range(len(parents) - 1, 0, -1):
        carried[parents[body]] += carried[body]
    for body in range(len(parents)):
        if tree.arrays.freedom[body] >= 0 and carried[body] <= 0:
            raise UnsoundRobotError(
                f"link {tree.links[body]!r} moves, and neither it nor anything on it has mass; "
                "give it a material or a mass"
            )


def _refuse_unsmooth(robot: Robot) -> None:
    rough = [name for name, joint in robot.joints.items() if joint.friction > 0]
    for what, names in (
        ("dry friction", rough),
        ("couplings", list(robot.couplings)),
        ("closures", list(robot.closures)),
    ):
        if names:
            raise ModelError(
                f"the accurate stepper has no {what} ({', '.join(names)}); use stepper='robust'"
            )


def _clock(step: float | str, rate: float | str) -> tuple[float, int]:
    """The time step [s], and how many steps lie between recorded instants."""
    h, hertz = to_si(step, "time"), to_si(rate, "frequency")
    if h <= 0 or hertz <= 0:
        raise ModelError("the step and the recording rate must be greater than zero")
    return h, max(1, round(1 / (hertz * h)))


def _plan(
    robot: Robot,
    tree: Tree,
    motion: str | Sequence[MotionStep] | None,
    posture: str | Mapping[str, float | str] | None,
    notes: list[str],
) -> tuple[Array, Timeline, float]:
    """Where to start, where the targets go, and how long that takes."""
    if motion is None:
        start = configuration(robot, posture, tree)
        return start, resting(tree, start), 5.0
    if isinstance(motion, str):
        if motion not in robot.motions:
            hint = did_you_mean(motion, list(robot.motions))
            raise ModelError(f"no motion is called {motion!r}{hint}")
        motion = robot.motions[motion]
    start = configuration(robot, motion[0].to if posture is None else posture, tree)
    timeline = timeline_of(robot, tree, motion, start, notes)
    undriven = _undriven(robot, tree, timeline)
    if undriven:
        notes.append(
            f"no motor moves {', '.join(undriven)}; the motion's targets for it do nothing"
        )
    return start, timeline, duration_of(motion, timeline)


def _undriven(robot: Robot, tree: Tree, timeline: Timeline) -> list[str]:
    """Joints that a motion moves and nothing drives, directly or through a coupling or loop."""
    driven = {motor.joint for motor in robot.motors.values()}
    moved = np.ptp(timeline.points, axis=0) > 1e-9
    return [
        name
        for name, moves, tied in zip(tree.freedoms, moved, loop_freedoms(tree), strict=True)
        if moves and name not in driven and not tied
    ]


def _motor_arrays(robot: Robot, tree: Tree, powered: bool) -> MotorArrays:
    motors = list(robot.motors.values()) if powered else []
    freedoms = np.array([tree.freedom(m.joint) for m in motors], dtype=np.int64)
    return MotorArrays(
        freedoms,
        np.array([m.p or 0.0 for m in motors], dtype=float),
        np.array([m.d or 0.0 for m in motors], dtype=float),
        np.ascontiguousarray(tree.joints.effort[freedoms]),
        np.array([m.at_limit == "trip" for m in motors], dtype=np.bool_),
    )


def _columns(tree: Tree, motors: MotorArrays, rows: int) -> Columns:
    driven = len(motors.p)
    return Columns(
        np.zeros(rows),
        np.zeros((rows, len(tree.coordinates))),
        np.zeros((rows, len(tree.freedoms))),
        np.zeros((rows, driven)),
        np.zeros((rows, driven)),
        np.zeros((rows, 5)),
        np.zeros(rows),
    )
