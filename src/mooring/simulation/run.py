"""`simulate`: a whole run in one call."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from inspect import signature
from typing import Unpack, overload

from mooring.announcing import Progress, logged
from mooring.arguments import proven, refuse_unknown
from mooring.errors import ModelError
from mooring.model import Robot
from mooring.model.scene import Scene
from mooring.simulation.copies import run_copies
from mooring.simulation.options import SimulationOptions
from mooring.simulation.recording.recording import Recording
from mooring.simulation.running import run_length, run_until
from mooring.simulation.simulation import Simulation


@overload
def simulate(
    what: Robot | Scene,
    *,
    seconds: float | str | None = None,
    resume: Recording | None = None,
    at: float | str | None = None,
    progress: Progress | None = None,
    **options: Unpack[SimulationOptions],
) -> Recording: ...


@overload
def simulate(
    what: Robot | Scene,
    *,
    copies: int,
    vary: Mapping[str, Sequence[float]] | None = None,
    seconds: float | str | None = None,
    **options: Unpack[SimulationOptions],
) -> list[Recording]: ...


@proven
def simulate(
    what: Robot | Scene,
    *,
    seconds: float | str | None = None,
    resume: Recording | None = None,
    at: float | str | None = None,
    progress: Progress | None = None,
    copies: int | None = None,
    vary: Mapping[str, Sequence[float]] | None = None,
    **options: Unpack[SimulationOptions],
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
    known = [*signature(simulate).parameters, *signature(Simulation.__init__).parameters]
    refuse_unknown("simulate", options, known)
    simulation = Simulation(what, **options)
    if copies is not None:
        if resume is not None:
            raise ModelError("copies begin at the start; they cannot resume")
        return run_copies(simulation, copies, vary or {}, seconds)
    if resume is None and at is not None:
        raise ModelError("at is an instant of the recording to resume; none is given")
    if resume is not None:
        simulation.reset(resume, at)
    length = run_length(simulation, seconds)
    with logged(__name__, "simulated %s to %g s", simulation.robot.name, length):
        run_until(simulation, length, progress)
    return simulation.recording
