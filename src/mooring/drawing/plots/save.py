"""Plots as files."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from mooring.drawing.plots.recording import PLOTS
from mooring.files import write_whole
from mooring.simulation import Recording


def save_plots(
    recording: Recording, folder: Path, names: Sequence[str] = tuple(PLOTS)
) -> list[Path]:
    """Write plots of a recording as PNG files, 1280 x 800, named after what they show."""
    written = []
    for name in names:
        path = folder / f"{name}.png"
        with write_whole(path) as stream:
            PLOTS[name](recording).savefig(stream, format="png")
        written.append(path)
    return written
