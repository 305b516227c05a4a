"""One joint going to and fro, small: how a robot would move if it were changed."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np

from mooring.drawing.camera import looking_at
from mooring.drawing.exercise.scene import picture_of, pieces_at, points_of
from mooring.errors import ModelError
from mooring.exercising import Sweep
from mooring.exercising.sweeps import Sweeper
from mooring.kinematics import home_configuration
from mooring.kinematics.mechanism.drivers import drivers
from mooring.model import Robot
from mooring.model.definition.fields import dimension_of
from mooring.tree import Tree
from mooring.units import show

_STEPS = 14
_RATE = 12
"""Pictures a second."""


@dataclass(frozen=True)
class Preview:
    """A joint that moves.

    Attributes:
        film: an animated WebP.
        words: what moves, how far, and what stops it.
    """

    film: bytes
    words: str


def preview(robot: Robot, joint: str, size: tuple[int, int] = (560, 350)) -> Preview:
    """Show how a joint moves, from end to end and back.

    Args:
        robot: whose joint.
        joint: which; where another one moves it, that one is moved.
        size: of the pictures [pixels].

    Raises:
        ModelError: it does not move, or nothing is to be seen.
        UnsoundRobotError: the robot is no tree.
        RunError: its loops do not close.

    Example:
        >>> from mooring import demo, read
        >>> preview(read(demo.LINE_TENDER.document), "slew", (160, 100)).words
        'slew from -170 deg to 170 deg'
    """
    tree = robot.tree()
    sweep = _sweep(robot, tree, joint)
    if not any(link.shown(robot.materials) or link.collisions for link in robot.links.values()):
        raise ModelError("no link has a shape to be seen")
    scenes = [pieces_at(robot, tree, q, sweep) for q in sweep.positions]
    points = np.concatenate([points_of(pieces) for pieces in scenes])
    camera = looking_at(points, "corner", size[0] / size[1])
    shots = [picture_of(pieces, camera, size).convert("RGB") for pieces in scenes]
    stream = io.BytesIO()
    shots[0].save(
        stream, "WEBP", save_all=True, append_images=[*shots[1:], *shots[-2:0:-1]], loop=0,
        duration=round(1000 / _RATE), quality=70,
    )  # fmt: skip
    kind = dimension_of("position", sweep.motion)
    at = tree.coordinate(sweep.joint)
    low, high = (show(float(sweep.positions[k][at]) + 0.0, kind, 4) for k in (0, -1))
    words = f"{sweep.joint} from {low} to {high}"
    if sweep.joint != joint:
        words = f"{joint}, which {words} moves"
    return Preview(stream.getvalue(), "; ".join((words, *sweep.stops)))


def _sweep(robot: Robot, tree: Tree, joint: str) -> Sweep:
    if joint not in tree.freedoms:
        raise ModelError(f"{joint} does not move")
    home = home_configuration(robot, tree)
    driven = drivers(robot, tree, home)
    sweeper = Sweeper(tree, home, driven)
    if joint not in driven:
        moves = sweeper.moves[tree.freedom(joint)]
        if not moves.any():
            raise ModelError(f"{joint} cannot move: no joint that is free moves it")
        joint = driven[int(np.argmax(moves))]
    return sweeper.sweep(joint, _STEPS)
