"""`simulate`: a whole run in one call."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any, overload

from mooring.errors import ModelError
from mooring.model import Robot
from mooring.model.scene import Scene
from mooring.simulation.recording.recording import Recording
from mooring.simulation.simulation import CHUNK, Simulation
from mooring.units import to_si

Progress = Callable[[float, float], None]


@overload
def simulate(
    what: Robot | Scene,
    *,
    seconds: float | str | None = None,
    resume: Recording | None = None,
    at: float | str | None = None,
    progress: Progress | None = None,
    **options: Any,
) -> Recording: ...


@overload
def simulate(
    what: Robot | Scene,
    *,
    copies: int,
    vary: Mapping[str, Sequence[float]] | None = None,
    seconds: float | str | None = None,
    **options: Any,
) -> list[Recording]: ...


def simulate(
    what: Robot | Scene,
    *,
    seconds: float | str | None = None,
    resume: Recording | None = None,
    at: float | str | None = None,
    progress: Progress | None = None,
    copies: int | None = None,
    vary: Mapping[str, Sequence[float]] | None = None,
    **options: Any,
) -> Recording | list[Recording]:
    """Run a robot or a scene under gravity, its motors following a motion.

    Args:
        what: a robot, or a scene.
        seconds: until when; by default the scene's, else as long as the motion takes, or 5 s
            without one.
        resume: go on from an instant of this recording.
        at: which, [s]; its last one if not given.
        progress: called now and then with the time reached and the time to reach [s].
        copies: run so many, on all cores at once.
        vary: what differs between copies, by name: `<joint>.position`, `.velocity`, `.damping`,
            `.friction`, `.p`, `.d`, `<link>.mass`, `ground.friction`, or a coordinate of what
            floats; a list with a value for each copy, or a pair (lowest, highest) to draw from.
        options: as for `Simulation`: motion, posture, velocities, powered, step, rate, gravity,
            ground, contact, stepper, controllers, seed, keep.

    Returns:
        The recording, or one for each copy; after Ctrl-C or a run that explodes what there is
        until then, and its notes say so.

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
    simulation = Simulation(what, **options)
    if copies is not None:
        from mooring.simulation.copies import run_copies

        if resume is not None:
            raise ModelError("copies begin at the start; they cannot resume")
        return run_copies(simulation, copies, vary or {}, seconds)
    if resume is not None:
        simulation.reset(resume, at)
    length = run_length(simulation, seconds)
    run_until(simulation, length, progress)
    return simulation.recording


def run_length(simulation: Simulation, seconds: float | str | None) -> float:
    """How long a run is to take [s].

    Raises:
        ModelError: it would never end, or does not last at all.
    """
    length = simulation.scene.settings.seconds if seconds is None else to_si(seconds, "time")
    length = simulation.plan.seconds if length is None else length
    if math.isinf(length) and seconds is None:
        raise ModelError("the motion has no end; say how long to run with seconds")
    if not length > simulation.time:
        raise ModelError(f"a run must last longer than {max(length, simulation.time):g} s")
    return length


def run_until(simulation: Simulation, length: float, progress: Progress | None = None) -> None:
    """Step to a time; Ctrl-C ends it sooner, and the simulation says so."""
    try:
        while simulation.time < length + 1e-9 and not simulation.ended:
            # One step more than it takes: the instant at the end is recorded, too.
            left = (length - simulation.time) / simulation.settings.step
            count = math.ceil(left - 1e-6) + 1 if math.isfinite(left) else CHUNK
            simulation.step(min(CHUNK, count))
            if progress is not None:
                progress(min(simulation.time, length), length)
    except KeyboardInterrupt:
        simulation.stop()
