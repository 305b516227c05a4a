"""A film of a run."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from mooring import announcing
from mooring.drawing.film import Film
from mooring.drawing.runs.instant import Stage
from mooring.errors import ModelError
from mooring.model import Robot
from mooring.model.scene import Ground
from mooring.simulation import Recording

_SIZE = (960, 600)
_RATE = 25
_LOOKS = 40
"""Instants that the view is fitted to."""


def draw_run(
    robot: Robot,
    recording: Recording,
    file: Path,
    *,
    ground: Ground | None = None,
    speed: float = 1.0,
    view: str | tuple[float, float] = "corner",
) -> None:
    """Write a film of a run.

    Args:
        robot: everything that was recorded.
        recording: of the run.
        file: .mp4, .webp or .gif.
        ground: what it stood on.
        speed: of the film: 0.1 is ten times slower than it happened.
        view: as for `picture`.

    Raises:
        InputError: another suffix.
        ModelError: the recording holds no motion, or the speed is not positive.
    """
    times = recording.table.index.to_numpy(dtype=float)
    if len(times) < 2 or not speed > 0:
        raise ModelError("a film needs two recorded instants, and a speed greater than zero")
    states = recording.positions()
    shown = np.arange(times[0], times[-1] + 1e-9, speed / _RATE)
    rows = np.clip(np.searchsorted(times, shown + 1e-9, side="right") - 1, 0, None)
    stage = Stage(robot, ground, states[:: len(states) // _LOOKS or 1], view, _SIZE)
    with Film(file, _RATE) as film:
        for number, row in enumerate(rows):
            caption = f"{recording.robot}  {times[row]:.2f} s"
            film.add(stage.draw(states[row], caption))
            announcing.progress(number + 1, len(rows))
