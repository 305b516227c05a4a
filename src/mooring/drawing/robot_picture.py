"""`picture`: a robot in a posture, as an image."""

from __future__ import annotations

import io
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from os import PathLike
from pathlib import Path

import numpy as np
from PIL import Image

from mooring.arguments import proven
from mooring.cad import Mesh
from mooring.drawing.camera import Camera, ViewName, looking_at
from mooring.drawing.cutting import CuttingPlane, cut_face, kept_part
from mooring.drawing.layers import LAYERS, Posed
from mooring.drawing.overlay import draw_caption, draw_labels, draw_scale, draw_triad
from mooring.drawing.palette import CUT, DARK, LIGHT, Theme
from mooring.drawing.pieces import Layer, Piece
from mooring.drawing.render import FAR, LevelGround, render
from mooring.errors import InputError, ModelError, did_you_mean
from mooring.files import write_whole
from mooring.geometry import Array
from mooring.kinematics import configuration, link_poses
from mooring.model import Robot
from mooring.units import show

SUFFIXES = {".png": "PNG", ".jpg": "JPEG", ".jpeg": "JPEG", ".webp": "WEBP"}
_LARGEST = 8192


@dataclass(frozen=True, repr=False)
class Picture:
    """A finished picture; `image` is a Pillow image."""

    image: Image.Image

    def __repr__(self) -> str:
        return f"<Picture: {self.image.width} x {self.image.height} pixels>"

    def _repr_png_(self) -> bytes:
        stream = io.BytesIO()
        self.image.save(stream, "PNG")
        return stream.getvalue()

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


@proven
def picture(
    robot: Robot,
    *,
    posture: str | Mapping[str, float | str] | None = None,
    view: ViewName | tuple[float, float] = "corner",
    layers: Iterable[str] = ("visual",),
    size: tuple[int, int] = (1280, 800),
    ground: bool = True,
    caption: str | None = None,
    explode: float = 0.0,
    section: str | None = None,
    dark: bool = False,
) -> Picture:
    """Draw a robot.

    Args:
        robot: what to draw.
        posture: the name of a posture, or positions by joint; every joint at zero by default.
        view: `"corner"`, `"front"`, `"back"`, `"left"`, `"right"`, `"top"`, `"bottom"`, or the
            eye's azimuth and elevation [deg].
        layers: any of `"visual"`, `"collision"`, `"frames"`, `"axes"`, `"centres"`,
            `"dimensions"`.
        size: width and height [pixels].
        ground: whether to draw the ground it stands on.
        caption: a line at the top; the robot's name and posture by default.
        explode: draws links apart, by this share of their distance from the root.
        section: a plane such as `"y"` or `"x = 200 mm"`; what lies beyond it is cut away, and the
            faces of the cut are drawn.
        dark: light on dark.

    Raises:
        ModelError: an unknown posture, view, layer or section, an impossible size, nothing to draw.
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
    poses = np.array(link_poses(tree, q))
    if not (np.isfinite(explode) and explode >= 0):
        raise ModelError(f"explode must be zero or more, got {explode}")
    if explode:
        centres = np.einsum("nij,nj->ni", poses[:, :3, :3], tree.arrays.centre) + poses[:, :3, 3]
        poses[:, :3, 3] += explode * (centres - centres[0])
    if caption is None:
        named = posture if isinstance(posture, str) else "given" if posture else ""
        caption = f"{robot.name}, posture {named}" if named else robot.name
    posed = Posed(robot, tree, poses)
    cut = None if section is None else CuttingPlane.of(section)
    theme = DARK if dark else LIGHT
    return _draw(posed, list(layers), view, size, ground, caption, cut, theme)


def _draw(
    posed: Posed,
    layers: list[str],
    view: ViewName | tuple[float, float],
    size: tuple[int, int],
    ground: bool,
    caption: str,
    cut: CuttingPlane | None,
    theme: Theme,
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
    if cut is not None:
        posed.pieces = cut_pieces(posed.pieces, cut)
    points = _points(posed.pieces) if posed.pieces else posed.poses[:, :3, 3]
    posed.low, posed.high = points.min(axis=0), points.max(axis=0)
    posed.scale = max(float(np.linalg.norm(posed.high - posed.low)), 1e-3)
    for layer in layers:
        if layer not in bodies:
            LAYERS[layer](posed)
    if not posed.pieces:
        beyond = " on this side of the section" if cut is not None else ""
        raise ModelError(
            f"there is nothing to draw in {', '.join(layers)}: the links of {posed.robot.name} "
            f"have no shapes there{beyond}"
        )
    points = _points(posed.pieces)
    camera = looking_at(points, view, size[0] / size[1])
    image = finish(posed, camera, size, ground_for(points) if ground else None, caption, theme)
    return Picture(image)


def finish(
    posed: Posed,
    camera: Camera,
    size: tuple[int, int],
    floor: LevelGround | None,
    caption: str,
    theme: Theme,
) -> Image.Image:
    """Render what is posed, and write on it."""
    image = Image.fromarray(render(posed.pieces, camera, size, floor, theme))
    at = np.array([label.point for label in posed.labels]).reshape(-1, 3)
    seen_at = camera.project(at, *size, FAR)
    clear = np.array([label.clear for label in posed.labels])
    scale = size[1] / (2 * camera.extent)
    clear = clear * scale
    if camera.perspective:
        clear = clear * seen_at[:, 2]
    draw_labels(image, posed.labels, np.column_stack([seen_at[:, :2], clear]), theme)
    draw_triad(image, camera, theme)
    middle = (posed.low + posed.high) / 2
    far = float((camera.position - middle) @ camera.back) if camera.perspective else 1.0
    draw_scale(image, scale / max(far, 1e-9), theme)
    seen = floor is not None and camera.back[2] > 0.01
    grid = f"grid {show(floor.spacing, 'length')}" if floor and seen else ""
    draw_caption(image, caption, grid, theme)
    return image


def cut_pieces(pieces: list[Piece], plane: CuttingPlane) -> list[Piece]:
    """What is left of pieces in front of a plane, with the faces of the cut."""
    left = []
    for piece in pieces:
        points = piece.vertices
        beyond = plane.beyond(points)
        if (beyond <= 0).all():
            left.append(piece)
            continue
        kept = kept_part(Mesh(points, piece.mesh.faces, paint=piece.mesh.paint), beyond)
        if kept is not None:
            left.append(replace(piece, mesh=kept, place=np.eye(4)))
            face = cut_face(points, piece.mesh, plane)
            if face is not None and piece.layer is Layer.SOLID:
                left.append(Piece(face, np.eye(4), CUT))
    return left


def _points(pieces: list[Piece]) -> Array:
    return np.concatenate([piece.vertices for piece in pieces])


def ground_for(points: Array) -> LevelGround:
    """The ground is at height zero of the CAD for a machine that stands there, else below it."""
    low, high = float(points[:, 2].min()), float(points[:, 2].max())
    height = 0.0 if -0.15 * (high - low) <= low <= 0.02 * (high - low) else low
    reach = max(float(np.ptp(points[:, :2], axis=0).max()), 1e-3)
    spacing = 10.0 ** np.floor(np.log10(reach))
    if reach / spacing < 2:
        spacing /= 2
    return LevelGround(height, float(spacing))
