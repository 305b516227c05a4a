"""Robots that move under gravity, driven by their motors, touching what is around them."""

from mooring.simulation.animation import write_animation
from mooring.simulation.recording.finding import RunFinding
from mooring.simulation.recording.recording import MODEL_FILE, Recording
from mooring.simulation.run import simulate
from mooring.simulation.running import last_step, run_length, run_until
from mooring.simulation.simulation import Instant, Simulation

__all__ = [
    "MODEL_FILE",
    "Instant",
    "Recording",
    "RunFinding",
    "Simulation",
    "last_step",
    "run_length",
    "run_until",
    "simulate",
    "write_animation",
]
