"""Runs drawn: an instant as a picture, the whole as a film."""

from mooring.drawing.runs.film import draw_run
from mooring.drawing.runs.instant import Stage
from mooring.drawing.runs.moments import draw_moments

__all__ = ["Stage", "draw_moments", "draw_run"]
