"""The look of all plots."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from matplotlib import rc_context
from matplotlib.axes import Axes
from matplotlib.figure import Figure

from mooring.drawing.palette import INK, SERIES

_STYLE: Any = {
    "figure.facecolor": "white",
    "axes.facecolor": "white",
    "axes.edgecolor": "#8a969e",
    "axes.labelcolor": INK,
    "axes.titlesize": 9,
    "axes.titlelocation": "left",
    "axes.titleweight": "bold",
    "axes.titley": 1.0,
    "axes.labelsize": 9,
    "axes.grid": True,
    "grid.color": "#e3e8eb",
    "grid.linewidth": 0.8,
    "axes.spines.top": False,
    "axes.spines.right": False,
    "xtick.color": INK,
    "ytick.color": INK,
    "xtick.labelsize": 8,
    "ytick.labelsize": 8,
    "legend.fontsize": 8,
    "legend.frameon": False,
    "lines.linewidth": 1.6,
}


@contextmanager
def styled() -> Iterator[None]:
    """Mooring's style, for as long as a figure is made."""
    with rc_context(_STYLE):
        yield


def sheet(count: int, title: str) -> tuple[Figure, list[Axes]]:
    """A 1280 x 800 figure of small plots with a common time axis, unused places left empty."""
    columns = 1 if count == 1 else 2 if count <= 4 else 3
    rows = -(-count // columns)
    # Margins that are given cost nothing; those that are found cost as much as the drawing.
    figure = Figure(figsize=(12.8, 8.0), dpi=100)
    figure.subplots_adjust(
        left=0.06, right=0.985, top=0.91, bottom=0.075, hspace=0.09 * rows, wspace=0.24
    )
    figure.suptitle(title, x=0.012, y=0.975, ha="left", va="center", fontsize=12, color=INK)
    grid = figure.subplots(rows, columns, squeeze=False, sharex=True)
    axes = list(grid.ravel())
    for empty in axes[count:]:
        empty.set_visible(False)
    # The lowest visible plot of each column carries the time axis.
    for number in range(max(0, count - columns), count):
        axes[number].tick_params(labelbottom=True)
        axes[number].set_xlabel("time [s]")
    return figure, axes[:count]


def color(number: int) -> str:
    """The color of a series."""
    return SERIES[number % len(SERIES)]
