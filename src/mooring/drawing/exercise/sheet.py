"""Contact sheets: start, middle and end of each joint's range."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from mooring.drawing.camera import VIEWS, looking_at
from mooring.drawing.exercise.scene import picture_of, pieces_at, points_of
from mooring.drawing.overlay import draw_caption, fitted
from mooring.drawing.palette import INK
from mooring.drawing.pieces import Piece
from mooring.drawing.robot_picture import Picture
from mooring.exercising import Exercise, Sweep
from mooring.geometry import Array
from mooring.kinematics.overlaps import Surroundings
from mooring.model.definition.fields import dimension_of
from mooring.units import show

_SIZE = (1280, 800)
_HEADER = 40
_COLUMNS, _ROWS = 2, 3
_TITLE, _FOOT = 20, 20
_AROUND = 0.8
"""How far around what moves is shown, as a share of its size."""
_SIDES = ((-52.0, 22.0), (52.0, 22.0), (-128.0, 22.0), (128.0, 22.0))
"""Where to look from: azimuth and elevation [deg]."""
_ASIDE = 0.12
_QUIET, _LOUD = "#5c6972", "#b8432f"


def draw_sheets(done: Exercise, file: Path) -> list[Path]:
    """Write contact sheets of an exercise, six joints a page.

    Args:
        done: the exercise.
        file: the first sheet; others get a number.

    Returns:
        The files written; none where there is nothing to see, or nothing moves.
    """
    seen = any(
        link.shown(done.robot.materials) or link.collisions for link in done.robot.links.values()
    )
    if not seen:
        return []
    per_page = _COLUMNS * _ROWS
    written = []
    around = Surroundings(done.robot, done.tree)
    pages = -(-len(done.sweeps) // per_page)
    for page in range(pages):
        path = file if page == 0 else file.with_stem(f"{file.stem}_{page + 1}")
        where = f", page {page + 1} of {pages}" if pages > 1 else ""
        chosen = done.sweeps[page * per_page : (page + 1) * per_page]
        _sheet(done, around, chosen, f"{done.robot.name}, each joint by itself{where}").save(path)
        written.append(path)
    return written


def _sheet(done: Exercise, around: Surroundings, sweeps: Sequence[Sweep], title: str) -> Picture:
    image = Image.new("RGB", _SIZE, "white")
    columns = 1 if len(sweeps) <= _ROWS - 1 else _COLUMNS
    rows = -(-len(sweeps) // columns)
    width, height = _SIZE[0] // columns, (_SIZE[1] - _HEADER) // rows
    for number, sweep in enumerate(sweeps):
        left = (number % columns) * width
        top = _HEADER + (number // columns) * height
        _strip(image, done, around, sweep, (left, top), (width, height))
    draw_caption(image, title, "")
    return Picture(image)


def _strip(
    image: Image.Image, done: Exercise, around: Surroundings, sweep: Sweep, at: tuple[int, int],
    size: tuple[int, int],
) -> None:  # fmt: skip
    """Three pictures of one joint, seen from the same place."""
    draw = ImageDraw.Draw(image)
    font, small = ImageFont.load_default(14), ImageFont.load_default(12)
    left, top = at
    name = f"{fitted(draw, sweep.joint, font, size[0] / 2)}  "
    draw.text((left + 16, top), name, fill=INK, font=font)
    reach = draw.textlength(name, font=font)
    room = size[0] - 26 - reach
    words = fitted(draw, _words(done, sweep), small, room)
    draw.text((left + 18 + reach, top + 2), words, fill=_QUIET, font=small)
    cell = ((size[0] - 24) // 3, size[1] - _TITLE - _FOOT - 6)
    steps = sweep.positions[[0, len(sweep.positions) // 2, len(sweep.positions) - 1]]
    pairs = around.pairs.judged
    distances, _ = around.distances(steps, pairs, 1e-9)
    hits = [[pair for pair, d in zip(pairs, row, strict=True) if d < 0] for row in distances]
    scenes = [
        pieces_at(done.robot, done.tree, q, sweep, tuple(name for pair in hit for name in pair))
        for q, hit in zip(steps, hits, strict=True)
    ]
    seen, view = _looked_at(done, sweep, scenes, steps)
    camera = looking_at(seen, view, cell[0] / cell[1])
    position = dimension_of("position", sweep.motion)
    for k, (scene, q, hit) in enumerate(zip(scenes, steps, hits, strict=True)):
        x, y = left + 12 + k * cell[0], top + _TITLE
        image.paste(picture_of(scene, camera, (cell[0] - 4, cell[1])), (x, y))
        value = show(float(q[done.tree.coordinate(sweep.joint)]) + 0.0, position, 3)
        words = f"{('start', 'middle', 'end')[k]}  {value}"
        color = _QUIET
        if hit:
            words, color = f"{words}  overlap: {hit[0][0]}, {hit[0][1]}", _LOUD
        words = fitted(draw, words, small, cell[0] - 10)
        draw.text((x + 4, y + cell[1] + 2), words, fill=color, font=small)


def _looked_at(
    done: Exercise, sweep: Sweep, scenes: Sequence[list[Piece]], steps: Array
) -> tuple[Array, tuple[float, float]]:
    """The points to have in view, what moves and what is around it; and from where to look."""
    whole = np.concatenate([points_of(scene) for scene in scenes])
    moving = np.concatenate(
        [points_of(pieces_at(done.robot, done.tree, q, sweep, only=sweep.moving)) for q in steps]
    )
    low, high = moving.min(axis=0), moving.max(axis=0)
    spare = _AROUND * float(np.max(high - low))
    near = ((whole >= low - spare) & (whole <= high + spare)).all(axis=1)
    # From the side on which it is, so that the rest does not hide it.
    aside = (low + high - whole.min(axis=0) - whole.max(axis=0))[:2] / 2
    view = VIEWS["corner"]
    if np.linalg.norm(aside) > _ASIDE * np.linalg.norm(np.ptp(whole, axis=0)):
        around = np.radians([angle for angle, _ in _SIDES])
        best = np.argmax(np.cos(around) * aside[0] + np.sin(around) * aside[1])
        view = _SIDES[int(best)]
    return np.concatenate([moving, whole[near]]), view


def _words(done: Exercise, sweep: Sweep) -> str:
    joint = done.robot.joints[sweep.joint]
    words = [joint.type, f"moves {show(sweep.mass, 'mass', 3)}"]
    effort = next((e for e in done.efforts if e.joint == sweep.joint), None)
    if effort is not None and np.isfinite(effort.limit):
        said = f"holding takes up to {100 * effort.share:.0f}% of its limit"
        words.append(said + (" - too weak" if effort.too_weak else ""))
    return ", ".join(words)
