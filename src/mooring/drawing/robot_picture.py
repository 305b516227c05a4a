"""`picture`: a robot in a posture, as an image."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from os import PathLike
from pathlib import Path

import numpy as np
from PIL import Image

from mooring.drawing.camera import looking_at
from mooring.drawing.layers import LAYERS, Posed
from mooring.drawing.overlay import draw_caption, draw_labels, draw_triad
from mooring.drawing.pieces import Piece
from mooring.drawing.render import FAR, Ground, render
from mooring.errors import InputError, ModelError, did_you_mean
from mooring.files import write_whole
from mooring.geometry import Array
from mooring.kinematics import configuration, link_poses
from mooring.model import Robot
from mooring.units import show

SUFFIXES = {".png": "PNG", ".jpg": "JPEG", ".jpeg": "JPEG", ".webp": "WEBP"}
_LARGEST = 8192


@dataclass(frozen=True)
class Picture:
    """A finished picture; `image` is a Pillow image."""

    image: Image.Image

    def save(self, file: str | PathLike[str]) -> None:
        """Write the picture in the format of the suffix: .png, .jpg or .webp.

        Raises:
            InputError: another suffix.
        """
        path = Path(file)
        kind = picture_format(path)
        with write_whole(path) as stream:
            self.image.save(stream, kind)


def picture_format(file: Path) -> str:
    """The format of a picture by the suffix of its file.

    Raises:
        InputError: it is none that pictures are written in.
    """
    kind = SUFFIXES.get(file.suffix.lower())
    if kind is None:
        raise InputError(f"{file}: pictures are written as {', '.join(SUFFIXES)}")
    return kind


def picture(
    robot: Robot,
    *,
    posture: str | Mapping[str, float | str] | None = None,
    view: str | tuple[float, float] = "corner",
    layers: Iterable[str] = ("visual",),
    size: tuple[int, int] = (1280, 800),
    ground: bool = True,
    caption: str | None = None,
) -> Picture:
    """Draw a robot.

    Args:
        robot: what to draw.
        posture: the name of a posture, or positions by joint; every joint at zero by default.
        view: `"corner"`, `"front"`, `"back"`, `"left"`, `"right"`, `"top"`, `"bottom"`, or the
            eye's azimuth and elevation [deg].
        layers: any of `"visual"`, `"collision"`, `"frames"`, `"axes"`, `"centres"`.
        size: width and height [pixels].
        ground: whether to draw the ground it stands on.
        caption: a line at the top; the robot's name and posture by default.

    Raises:
        ModelError: an unknown posture, view or layer, an impossible size, nothing to draw.
        UnsoundRobotError: the robot is no tree.
        RunError: its loops do not close in this posture.

    Example:
        >>> from mooring import demo, read
        >>> tender = read(demo.LINE_TENDER.document)
        >>> picture(tender, posture="stowed", size=(320, 200)).image.size
        (320, 200)
    """
    tree = robot.tree()
    q = configuration(robot, posture, tree)
    poses = link_poses(tree, q)
    if caption is None:
        named = posture if isinstance(posture, str) else "given" if posture else ""
        caption = f"{robot.name}, posture {named}" if named else robot.name
    posed = Posed(robot, tree, np.asarray(poses))
    return _draw(posed, list(layers), view, size, ground, caption)


def _draw(
    posed: Posed,
    layers: list[str],
    view: str | tuple[float, float],
    size: tuple[int, int],
    ground: bool,
    caption: str,
) -> Picture:
    for layer in layers:
        if layer not in LAYERS:
            raise ModelError(f"unknown layer {layer!r}{did_you_mean(layer, list(LAYERS))}")
    if not (min(size) >= 16 and max(size) <= _LARGEST):
        raise ModelError(f"a picture of {size[0]} x {size[1]} pixels cannot be drawn")
    # Bodies first: the size of the symbols follows from theirs.
    bodies = [layer for layer in ("visual", "collision") if layer in layers]
    for layer in bodies:
        LAYERS[layer](posed)
    points = _points(posed.pieces) if posed.pieces else posed.poses[:, :3, 3]
    posed.scale = max(float(np.linalg.norm(np.ptp(points, axis=0))), 1e-3)
    for layer in layers:
        if layer not in bodies:
            LAYERS[layer](posed)
    if not posed.pieces:
        raise ModelError(
            f"there is nothing to draw in {', '.join(layers)}: the links of {posed.robot.name} "
            "have no shapes there"
        )
    points = _points(posed.pieces)
    camera = looking_at(points, view, size[0] / size[1])
    floor = _ground(points) if ground else None
    rendered = render(posed.pieces, camera, size, floor)
    image = Image.fromarray(rendered)
    at = np.array([label.point for label in posed.labels]).reshape(-1, 3)
    seen_at = camera.project(at, *size, FAR)
    clear = np.array([label.clear for label in posed.labels])
    clear = clear * size[1] / (2 * camera.extent)
    if camera.perspective:
        clear = clear * seen_at[:, 2]
    draw_labels(image, posed.labels, np.column_stack([seen_at[:, :2], clear]))
    draw_triad(image, camera)
    seen = floor is not None and camera.back[2] > 0.01
    grid = f"grid {show(floor.spacing, 'length')}" if floor and seen else ""
    draw_caption(image, caption, grid)
    return Picture(image)


def _points(pieces: list[Piece]) -> Array:
    return np.concatenate([piece.vertices for piece in pieces])


def _ground(points: Array) -> Ground:
    """The ground is at height zero of the CAD for a machine that stands there, else below it."""
    low, high = float(points[:, 2].min()), float(points[:, 2].max())
    height = 0.0 if -0.15 * (high - low) <= low <= 0.02 * (high - low) else low
    reach = max(float(np.ptp(points[:, :2], axis=0).max()), 1e-3)
    spacing = 10.0 ** np.floor(np.log10(reach))
    if reach / spacing < 2:
        spacing /= 2
    return Ground(height, float(spacing))
