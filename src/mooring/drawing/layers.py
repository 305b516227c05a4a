"""What can be shown of a robot: a function for each layer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from mooring.drawing.palette import AXES, COLLISION, DIMENSION, MASS, PLAIN
from mooring.drawing.pieces import Layer, Piece
from mooring.geometry import Array, frame_along, placement
from mooring.model import Robot
from mooring.model.shapes.bodies import arrow, ball
from mooring.tree import Tree
from mooring.units import show

_SOLID = 0.9
"""What is less opaque is drawn so that one sees through it, all of it alike."""


@dataclass(frozen=True)
class Label:
    """A text beside a point of the scene, (3,) [m], clear of a symbol of some radius [m]."""

    point: Array
    text: str
    clear: float = 0.0


@dataclass
class Posed:
    """A robot in a posture, and what has been put on the picture of it so far.

    Attributes:
        robot, tree: the robot.
        poses: of its links in the world, (n, 4, 4).
        scale: the robot's size [m], for the size of symbols.
        low, high: the corners of the box around its bodies, (3,) [m].
    """

    robot: Robot
    tree: Tree
    poses: Array
    scale: float = 1.0
    low: Array = field(default_factory=lambda: np.zeros(3))
    high: Array = field(default_factory=lambda: np.zeros(3))
    pieces: list[Piece] = field(default_factory=list)
    labels: list[Label] = field(default_factory=list)

    def frame(self, link: str) -> Array:
        """The link's frame in CAD coordinates."""
        return np.asarray(self.tree.neutral_frames[self.tree.link(link)])

    def pose(self, link: str) -> Array:
        """The link's pose in the world."""
        return np.asarray(self.poses[self.tree.link(link)])


def visual(posed: Posed) -> None:
    """What each link looks like."""
    for name, link in posed.robot.links.items():
        for shape in link.shown(posed.robot.materials):
            place = posed.pose(name) @ shape.in_link(posed.frame(name))
            layer = Layer.SOLID if shape.opacity >= _SOLID else Layer.GLASS
            if shape.opacity > 0:
                posed.pieces.append(Piece(shape.shape.mesh, place, shape.color or PLAIN, layer))


def collision(posed: Posed) -> None:
    """The shapes each link collides with, see-through over what is behind them."""
    for name, link in posed.robot.links.items():
        for shape in link.collisions:
            place = posed.pose(name) @ shape.in_link(posed.frame(name))
            posed.pieces.append(Piece(shape.shape.mesh, place, COLLISION, Layer.GLASS))


def frames(posed: Posed) -> None:
    """The frames of links and, smaller, the named ones: arrows x, y, z in the triad's colors."""
    for name in posed.tree.links:
        _triad(posed, posed.pose(name), name, 0.07 * posed.scale)
    for name, (row, place) in posed.tree.frames.items():
        role = posed.robot.frames[name].role
        label = name if role == "plain" else f"{name} ({role})"
        _triad(posed, posed.poses[row] @ place, label, 0.045 * posed.scale)


def _triad(posed: Posed, pose: Array, name: str, length: float) -> None:
    for axis, color in enumerate(AXES):
        turn = placement(rotation=frame_along(np.eye(3)[axis]))
        mesh = arrow(length, length * 0.035)
        posed.pieces.append(Piece(mesh, pose @ turn, color, Layer.ON_TOP))
    posed.labels.append(Label(pose[:3, 3], name))


def axes(posed: Posed) -> None:
    """Each moving joint's axis as an arrow in the direction of positive motion."""
    length = 0.16 * posed.scale
    for name, joint in posed.robot.joints.items():
        if not joint.has_axis:
            continue
        pose = posed.pose(joint.child)
        along = frame_along(np.array(joint.axis))
        place = pose @ placement(rotation=along)
        place = place @ placement((0, 0, -length / 3))
        color = AXES[joint.kind.color]
        posed.pieces.append(Piece(arrow(length, length * 0.014), place, color, Layer.ON_TOP))
        tip = place @ np.array([0, 0, length, 1])
        posed.labels.append(Label(tip[:3], name, 0.01 * posed.scale))


def centres(posed: Posed) -> None:
    """Each link's centre of mass, as a ball whose volume grows with the mass, with the mass."""
    masses = posed.tree.arrays.mass
    heaviest = float(masses.max(initial=0.0))
    for number, name in enumerate(posed.tree.links):
        mass = float(masses[number])
        if mass <= 0:
            continue
        point = posed.poses[number] @ np.array([*posed.tree.arrays.centre[number], 1.0])
        radius = posed.scale * max(0.008, 0.025 * (mass / heaviest) ** (1 / 3))
        posed.pieces.append(Piece(ball(round(radius, 5)), placement(point[:3]), MASS, Layer.ON_TOP))
        posed.labels.append(Label(point[:3], f"{name} {mass:.4g} kg", radius))


def dimensions(posed: Posed) -> None:
    """How long, wide and high it all is: lines beside it, with their lengths."""
    low, high = posed.low, posed.high
    away, thick = 0.05 * posed.scale, 0.0016 * posed.scale
    corner = np.array([high[0] + away, low[1] - away, low[2]])
    for axis, start in ((0, (low[0], corner[1], low[2])), (1, (corner[0], low[1], low[2])),
                        (2, (corner[0], corner[1], low[2]))):  # fmt: skip
        length = float(high[axis] - low[axis])
        if length < 1e-6:
            continue
        begin, way = np.array(start), np.eye(3)[axis]
        for end, sense in ((begin + length / 2 * way, 1.0), (begin + length / 2 * way, -1.0)):
            turn = placement(end, frame_along(sense * way))
            posed.pieces.append(Piece(arrow(length / 2, thick), turn, DIMENSION, Layer.ON_TOP))
        posed.labels.append(Label(begin + length / 2 * way, show(length, "length")))


LAYERS: dict[str, Callable[[Posed], None]] = {
    "visual": visual,
    "collision": collision,
    "frames": frames,
    "axes": axes,
    "centres": centres,
    "dimensions": dimensions,
}
