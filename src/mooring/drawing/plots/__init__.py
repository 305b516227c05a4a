"""Plots of a recording."""

from mooring.drawing.plots.recording import PLOTS
from mooring.drawing.plots.save import save_plots

__all__ = ["PLOTS", "save_plots"]
