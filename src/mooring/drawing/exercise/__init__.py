"""Pictures and films of a robot's joints going through their ranges."""

from mooring.drawing.exercise.film import draw_film
from mooring.drawing.exercise.sheet import draw_sheets

__all__ = ["draw_film", "draw_sheets"]
