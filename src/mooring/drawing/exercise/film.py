"""A film of an exercise: each joint to and fro, then all together."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
from PIL import Image

from mooring import announcing
from mooring.drawing.camera import looking_at
from mooring.drawing.exercise.scene import picture_of, pieces_at, points_of
from mooring.drawing.film import Film
from mooring.drawing.overlay import draw_caption, draw_triad
from mooring.exercising import Exercise, Sweep
from mooring.geometry import Array
from mooring.model.fields import dimension_of
from mooring.units import show

_SIZE = (960, 600)
_RATE = 20


def draw_film(done: Exercise, file: Path) -> None:
    """Write a film of an exercise.

    Args:
        done: the exercise.
        file: .mp4, .webp or .gif.

    Raises:
        InputError: another suffix.
    """
    shots = list(_shots(done))
    corners = [
        points_of(pieces_at(done, q, sweep)) for q, sweep, _ in shots[:: len(shots) // 40 or 1]
    ]
    camera = looking_at(np.concatenate(corners), "corner", _SIZE[0] / _SIZE[1])
    with Film(file, _RATE) as film:
        for number, (q, sweep, words) in enumerate(shots):
            image: Image.Image = picture_of(pieces_at(done, q, sweep), camera, _SIZE)
            draw_triad(image, camera)
            draw_caption(image, f"{done.robot.name}  {words}", "")
            film.add(image)
            announcing.progress(number + 1, len(shots))


def _shots(done: Exercise) -> Iterator[tuple[Array, Sweep | None, str]]:
    for sweep in done.sweeps:
        at = done.tree.coordinate(sweep.joint)
        position = dimension_of("position", sweep.motion)
        middle = int(np.argmin(np.abs(sweep.positions[:, at] - done.home[at])))
        up, down = sweep.positions[middle:], sweep.positions[: middle + 1][::-1]
        for way in (up, up[::-1], down, down[::-1]):
            for q in way:
                value = show(float(q[at]) + 0.0, position, 3)
                yield q, sweep, f"{sweep.joint}  {value}"
    for q in done.together:
        yield q, None, "all joints together"
