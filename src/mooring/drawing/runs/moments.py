"""A run on one sheet: some moments of it, with the forces that push."""

from __future__ import annotations

import numpy as np
from PIL import Image

from mooring.drawing.camera import ViewName
from mooring.drawing.runs.instant import Stage
from mooring.model import Robot
from mooring.simulation import Recording

_ACROSS, _DOWN = 3, 2
_SIZE = (427, 400)
_LOOKS = 40


def draw_moments(
    robot: Robot,
    recording: Recording,
    *,
    view: ViewName | tuple[float, float] = "corner",
) -> Image.Image:
    """Six moments, evenly spread over a run, from one point of view.

    Args:
        robot: everything that was recorded.
        recording: of the run, of at least one instant.
        view: as for `picture`.
    """
    states = recording.positions()
    times = recording.table.index.to_numpy(dtype=float)
    stage = Stage(robot, recording.ground, states[:: len(states) // _LOOKS or 1], view, _SIZE)
    sheet = Image.new("RGB", (_ACROSS * _SIZE[0], _DOWN * _SIZE[1]))
    rows = np.linspace(0, len(states) - 1, _ACROSS * _DOWN).round().astype(int)
    for number, row in enumerate(rows):
        now = recording.contacts[recording.contacts["time"] == times[row]]
        forces = now[["x", "y", "z", "fx", "fy", "fz"]].to_numpy(dtype=float)
        caption = f"{recording.robot}  {times[row]:.2f} s"
        place = (number % _ACROSS * _SIZE[0], number // _ACROSS * _SIZE[1])
        sheet.paste(stage.draw(states[row], caption, list(forces)), place)
    return sheet
