"""A film of a run."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from mooring import announcing
from mooring.drawing.film import Film
from mooring.drawing.filming import RATE, Filming, Operator
from mooring.drawing.runs.instant import Stage
from mooring.errors import ModelError
from mooring.model import Robot
from mooring.simulation import Recording

_AS_IT_HAPPENED = Filming()


def draw_run(
    robot: Robot,
    recording: Recording,
    file: Path,
    filming: Filming = _AS_IT_HAPPENED,
) -> None:
    """Write a film of a run.

    Args:
        robot: everything that was recorded.
        recording: of the run.
        file: .mp4, .webp or .gif.
        filming: how fast, from where, following what.

    Raises:
        InputError: another suffix.
        ModelError: the recording holds no motion, or the filming asks for what is not there.
    """
    times = recording.table.index.to_numpy(dtype=float)
    if len(times) < 2:
        raise ModelError("a film needs two recorded instants")
    states = recording.positions()
    stage = Stage(robot, recording.ground, Operator.looks(states), filming.view, filming.size)
    filming.check(robot, stage.tree)
    looks = Operator.looks(states)
    operator = Operator(filming, stage.tree, looks, [stage.points(q) for q in looks])
    shown = np.arange(times[0], times[-1] + 1e-9, filming.speed / RATE)
    rows = np.clip(np.searchsorted(times, shown + 1e-9, side="right") - 1, 0, None)
    pace = "" if filming.speed == 1 else f", {filming.speed:g} times real time"
    with Film(file, RATE) as film:
        for number, row in enumerate(rows):
            q = states[row]
            stage.camera = operator.camera(q, number / RATE)
            said = filming.values(robot, stage.tree, q)
            caption = f"{recording.robot}  {times[row]:.2f} s{pace}   {said}".rstrip()
            film.add(stage.draw(q, caption))
            announcing.progress(number + 1, len(rows))
