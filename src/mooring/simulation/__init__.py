"""Robots that move under gravity, driven by their motors, touching what is around them."""

from mooring.simulation.animation import write_animation
from mooring.simulation.recording.finding import RunFinding
from mooring.simulation.recording.recording import Recording
from mooring.simulation.recording.runs import is_run, read_run
from mooring.simulation.run import simulate
from mooring.simulation.running import last_step, run_length, run_until
from mooring.simulation.simulation import Instant, Simulation

__all__ = [
    "Instant",
    "Recording",
    "RunFinding",
    "Simulation",
    "is_run",
    "last_step",
    "read_run",
    "run_length",
    "run_until",
    "simulate",
    "write_animation",
]
