"""One instant of a run: everything at its place, on its ground, with the forces that push."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PIL import Image

from mooring.cad import Mesh
from mooring.drawing.camera import Camera, ViewName, looking_at
from mooring.drawing.overlay import draw_caption, draw_triad
from mooring.drawing.palette import COLLISION, PLAIN, QUAY
from mooring.drawing.pieces import Layer, Piece
from mooring.drawing.render import LevelGround, render
from mooring.geometry import Array, frame_along, placement
from mooring.kinematics import link_poses
from mooring.model import Robot
from mooring.model.scene import Ground
from mooring.model.shapes.bodies import arrow
from mooring.tree import Tree
from mooring.units import show

_LONGEST = 0.12
"""Length of the arrow of the largest force, as a share of the scene's size."""
_LEAST = 0.02
"""Forces smaller than this share of the largest are not drawn."""


class Stage:
    """A robot and the ground it is on, ready to be drawn at many instants."""

    def __init__(
        self,
        robot: Robot,
        ground: Ground | None,
        states: Array,
        view: ViewName | tuple[float, float],
        size: tuple[int, int],
    ) -> None:
        """Find a view that holds all that happens.

        Args:
            robot: everything in the scene.
            ground: what it stands on.
            states: positions to hold in view, (k, n).
            view: as for `picture`.
            size: of pictures [pixels].
        """
        self.robot, self.ground, self.size = robot, ground, size
        self.tree = robot.tree()
        points = np.concatenate([self.points(q) for q in states])
        self.scale = max(float(np.linalg.norm(np.ptp(points, axis=0))), 1e-3)
        self.camera: Camera = looking_at(points, view, size[0] / size[1])
        self.low = float(points[:, 2].min())
        reach = max(float(np.ptp(points[:, :2], axis=0).max()), 1e-3)
        spacing = 10.0 ** np.floor(np.log10(reach))
        self.spacing = float(spacing / 2 if reach / spacing < 2 else spacing)

    def points(self, q: Array) -> Array:
        """Every corner of what is seen at a position (n,), (k, 3) [m]."""
        return np.concatenate([piece.vertices for piece in self.bodies(q)])

    def bodies(self, q: Array) -> list[Piece]:
        """Everything that has a place at a position (n,)."""
        poses = np.asarray(link_poses(self.tree, q))
        return [piece for _, piece in shapes_of_links(self.robot, self.tree, poses)]

    def draw(self, q: Array, caption: str, forces: Sequence[Array] = ()) -> Image.Image:
        """The picture at positions q (n,), with forces as (6,): where, and which way [N]."""
        pieces = self.bodies(q)
        level = None
        if self.ground is not None and self.ground.heights is not None:
            pieces.append(land(self.ground))
        elif self.ground is not None:
            level = LevelGround(self.ground.height, self.spacing)
        largest = max((float(np.linalg.norm(f[3:])) for f in forces), default=0.0)
        for force in forces:
            size = float(np.linalg.norm(force[3:]))
            if size > _LEAST * largest:
                length = _LONGEST * self.scale * size / largest
                place = placement(force[:3], frame_along(force[3:] / size))
                mesh = arrow(length, 0.0035 * self.scale)
                pieces.append(Piece(mesh, place, COLLISION, Layer.ON_TOP))
        image = Image.fromarray(render(pieces, self.camera, self.size, level))
        draw_triad(image, self.camera)
        note = f"grid {show(self.spacing, 'length')}" if level is not None else ""
        draw_caption(image, caption, note)
        return image


def shapes_of_links(robot: Robot, tree: Tree, poses: Array) -> list[tuple[str, Piece]]:
    """What each link looks like, or where it has no looks what it collides with, by its name."""
    found = []
    for body, name in enumerate(tree.links):
        link = robot.links[name]
        for shape in link.shown(robot.materials) or link.collisions:
            place = poses[body] @ shape.in_link(tree.neutral_frames[body])
            found.append((name, Piece(shape.shape.mesh, place, shape.color or PLAIN)))
    return found


def land(ground: Ground) -> Piece:
    """Uneven ground."""
    heights = ground.surface()
    rows, columns = heights.shape
    x = ground.corner[0] + ground.cell * np.arange(rows)
    y = ground.corner[1] + ground.cell * np.arange(columns)
    points = np.dstack([*np.meshgrid(x, y, indexing="ij"), heights]).reshape(-1, 3)
    number = np.arange(rows * columns).reshape(rows, columns)
    a, b = number[:-1, :-1].ravel(), number[1:, :-1].ravel()
    c, d = number[1:, 1:].ravel(), number[:-1, 1:].ravel()
    faces = np.concatenate([np.column_stack([a, b, c]), np.column_stack([a, c, d])])
    return Piece(Mesh(points, faces.astype(np.int64)), np.eye(4), QUAY)
