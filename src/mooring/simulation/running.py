"""Stepping a simulation to a time."""

from __future__ import annotations

import math

from mooring import announcing
from mooring.announcing import Progress
from mooring.arguments import proven
from mooring.errors import ModelError
from mooring.simulation.simulation import CHUNK, Simulation
from mooring.units import to_si


@proven
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


@proven
def run_until(simulation: Simulation, length: float, progress: Progress | None = None) -> None:
    """Step to a time; Ctrl-C ends it sooner, and the simulation says so.

    Args:
        simulation: what is stepped.
        length: the time [s].
        progress: called now and then with the time reached and the time to reach [s]; where none is
            given, a notebook shows a bar.
    """
    progress = progress or announcing.progress
    try:
        is_over = False
        while not is_over and not simulation.ended:
            left = (length - simulation.time) / simulation.settings.step
            count = math.ceil(left - 1e-6) if math.isfinite(left) else CHUNK
            if count > 0:
                simulation.step(min(CHUNK, count))
            else:
                last_step(simulation)
                is_over = True
            if math.isfinite(length):
                progress(min(simulation.time, length), length)
    except KeyboardInterrupt:
        simulation.stop()


@proven
def last_step(simulation: Simulation) -> None:
    """One step more than it takes, so that the instant at the end is recorded, too."""
    end = simulation.save()
    simulation.step()
    simulation.end = end
