"""A robot with the links that a joint moves in their colors, and the others faded."""

from __future__ import annotations

import numpy as np
from PIL import Image

from mooring.drawing.camera import Camera
from mooring.drawing.exercise.dial import add_dial
from mooring.drawing.layers import Posed
from mooring.drawing.palette import COLLISION, PLAIN, SERIES
from mooring.drawing.pieces import Piece
from mooring.drawing.render import render
from mooring.exercising import Sweep
from mooring.geometry import Array
from mooring.kinematics import link_poses
from mooring.model import Robot
from mooring.tree import Tree

_FADED = 0.78
"""How much of the paper is in a faded color."""
_GREY, _TINT = 40, 0.6
_DIAL = 2.2
"""The size of symbols, as that of a robot so many times as large as what moves."""


def pieces_at(
    robot: Robot,
    tree: Tree,
    q: Array,
    sweep: Sweep | None,
    hit: tuple[str, ...] = (),
    only: tuple[str, ...] | None = None,
) -> list[Piece]:
    """Everything that is drawn at a position.

    Args:
        robot, tree: what is drawn.
        q: positions of all joints, (n,).
        sweep: whose links and dial are shown; None shows all links alike.
        hit: names of links that overlap; they are shown in the color of warnings.
        only: the links to draw, and no dial; all if not given.
    """
    posed = Posed(robot, tree, np.asarray(link_poses(tree, q)))
    for name, link in robot.links.items():
        if only is not None and name not in only:
            continue
        moves = sweep is None or name in sweep.moving
        for shape in link.shown(robot.materials) or link.collisions:
            color = shape.color or PLAIN
            color = COLLISION if name in hit else _lively(color) if moves else _faded(color)
            place = posed.pose(name) @ shape.in_link(posed.frame(name))
            # Paint of single faces would not fade.
            mesh = shape.shape.mesh
            posed.pieces.append(Piece(mesh, place, color))
    posed.scale = scale_of(posed.pieces)
    if sweep is not None and sweep.moving and only is None:
        own = pieces_at(robot, tree, q, sweep, only=sweep.moving)
        posed.scale = min(posed.scale, _DIAL * scale_of(own))
    if sweep is not None and only is None:
        add_dial(posed, sweep, q)
    return posed.pieces


def scale_of(pieces: list[Piece]) -> float:
    """The size of what is drawn [m]."""
    points = points_of(pieces)
    return max(float(np.linalg.norm(np.ptp(points, axis=0))), 1e-3) if len(points) else 1.0


def points_of(pieces: list[Piece]) -> Array:
    """All corners of what is drawn, (n, 3) [m]."""
    return np.concatenate([np.zeros((0, 3)), *(piece.vertices for piece in pieces)])


def picture_of(pieces: list[Piece], camera: Camera, size: tuple[int, int]) -> Image.Image:
    """The picture, without text."""
    return Image.fromarray(render(pieces, camera, size, None))


def _lively(color: str) -> str:
    """A color that is told from faded ones: grey gets a tint."""
    rgb = np.array([int(color[k : k + 2], 16) for k in (1, 3, 5)], dtype=float)
    if np.ptp(rgb) < _GREY:
        tint = np.array([int(SERIES[5][k : k + 2], 16) for k in (1, 3, 5)], dtype=float)
        rgb = (1 - _TINT) * rgb * 0.8 + _TINT * tint
    return "#" + "".join(f"{round(v):02x}" for v in rgb)


def _faded(color: str) -> str:
    rgb = [int(color[k : k + 2], 16) for k in (1, 3, 5)]
    return "#" + "".join(f"{round(v + (238 - v) * _FADED):02x}" for v in rgb)
