"""Robots that move under gravity, driven by their motors."""

from mooring.simulation.animation import write_animation
from mooring.simulation.recording import Recording
from mooring.simulation.run import simulate

__all__ = ["Recording", "simulate", "write_animation"]
