"""Runs drawn: an instant as a picture, the whole as a film."""

from mooring.drawing.runs.film import draw_run
from mooring.drawing.runs.instant import Stage

__all__ = ["Stage", "draw_run"]
