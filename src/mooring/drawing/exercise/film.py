"""A film of an exercise: each joint to and fro, then all together."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
from PIL import Image

from mooring import announcing
from mooring.drawing.exercise.scene import picture_of, pieces_at, points_of
from mooring.drawing.film import Film
from mooring.drawing.filming import RATE, Filming, Operator
from mooring.drawing.overlay import draw_caption, draw_triad
from mooring.exercising import Exercise, Sweep
from mooring.geometry import Array
from mooring.model.definition.fields import dimension_of
from mooring.units import show

_RATE = 20
"""Positions of a sweep that are passed in a second, unless told otherwise."""


_AS_IT_GOES = Filming()


def draw_film(done: Exercise, file: Path, filming: Filming = _AS_IT_GOES) -> None:
    """Write a film of an exercise.

    Args:
        done: the exercise.
        file: .mp4, .webp or .gif.
        filming: how fast, from where, following what.

    Raises:
        InputError: another suffix.
        ModelError: the filming asks for what is not there.
    """
    filming.check(done.robot, done.tree)
    shots = list(_shots(done))
    looks = shots[:: len(shots) // 40 or 1]
    corners = [points_of(pieces_at(done.robot, done.tree, q, sweep)) for q, sweep, _ in looks]
    states = np.array([q for q, _, _ in looks])
    operator = Operator(filming, done.tree, states, corners)
    wanted = np.arange(0, len(shots), filming.speed * _RATE / RATE).astype(int)
    with Film(file, RATE) as film:
        for number, shot in enumerate(wanted):
            q, sweep, words = shots[shot]
            camera = operator.camera(q, number / RATE)
            image: Image.Image = picture_of(
                pieces_at(done.robot, done.tree, q, sweep), camera, filming.size
            )
            draw_triad(image, camera)
            said = filming.values(done.robot, done.tree, q)
            draw_caption(image, f"{done.robot.name}  {words}   {said}".rstrip(), "")
            film.add(image)
            announcing.progress(number + 1, len(wanted))


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
