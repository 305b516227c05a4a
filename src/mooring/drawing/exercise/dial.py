"""A dial about a joint's axis: its range, the way of positive motion, and where it is.

Without it a round part that turns looks like nothing happening.
"""

from __future__ import annotations

import numpy as np

from mooring.cad import Mesh
from mooring.drawing.layers import Posed
from mooring.drawing.palette import AXES, INK
from mooring.drawing.pieces import Layer, Piece
from mooring.exercising import Sweep
from mooring.geometry import Array, frame_along, placement
from mooring.model.shapes.bodies import arrow, ball, box

_TURNS, _SLIDES = AXES[2], AXES[1]


def add_dial(posed: Posed, sweep: Sweep, q: Array) -> None:
    """Put a joint's axis and dial on a picture.

    Args:
        posed: the picture; its scale is that of the robot.
        sweep: of the joint.
        q: positions of all joints, (n,).
    """
    joint = posed.robot.joints[sweep.joint]
    at = posed.pose(joint.parent) @ joint.at.in_link(posed.frame(joint.parent))
    at = at @ placement(rotation=frame_along(np.array(joint.axis)))
    value = float(q[posed.tree.coordinate(sweep.joint)])
    size = posed.scale
    if sweep.motion == "rotation":
        _add(posed, arrow(0.16 * size, 0.16 * size * 0.018), at @ placement((0, 0, -0.05 * size)),
             _TURNS)  # fmt: skip
        radius = 0.1 * size
        _add(posed, _arc(sweep.lower, sweep.upper, radius, 0.016 * size), at, _TURNS)
        pointer = placement((radius / 2, 0, 0))
        turn = np.eye(4)
        c, s = np.cos(value), np.sin(value)
        turn[:2, :2] = [[c, -s], [s, c]]
        _add(posed, box((radius, 0.012 * size, 0.012 * size)), at @ turn @ pointer, INK)
        return
    length = max(sweep.upper - sweep.lower, 1e-6)
    aside = placement((0.07 * size, 0, sweep.lower))
    _add(posed, arrow(length + 0.03 * size, 0.005 * size), at @ aside, _SLIDES)
    _add(posed, ball(round(0.014 * size, 5)), at @ placement((0.07 * size, 0, value)), INK)


def _add(posed: Posed, mesh: Mesh, place: Array, color: str) -> None:
    posed.pieces.append(Piece(mesh, place, color, Layer.ON_TOP))


def _arc(lower: float, upper: float, radius: float, width: float) -> Mesh:
    """A flat ring from one angle to another in the x-y plane, with an arrowhead at its end."""
    span = min(upper - lower, 2 * np.pi - 0.35)
    start = upper - span
    head = min(0.3, 0.4 * span)
    angles = np.linspace(start, upper - head, max(4, int(24 * span)))
    rim = np.column_stack([np.cos(angles), np.sin(angles), 0 * angles])
    inner, outer = (radius - width / 2) * rim, (radius + width / 2) * rim
    count = len(angles)
    vertices = [*inner, *outer]
    faces = []
    for k in range(count - 1):
        a, b, c, d = k, k + 1, count + k, count + k + 1
        faces += [(a, c, d), (a, d, b)]
    last = angles[-1]
    middle = np.array([np.cos(last), np.sin(last), 0.0])
    tip = radius * np.array([np.cos(upper), np.sin(upper), 0.0])
    first = len(vertices)
    vertices += [(radius - 1.5 * width) * middle, (radius + 1.5 * width) * middle, tip]
    faces.append((first, first + 1, first + 2))
    # Seen from both sides.
    both = faces + [(a, c, b) for a, b, c in faces]
    return Mesh(np.array(vertices), np.array(both, dtype=np.int64))
