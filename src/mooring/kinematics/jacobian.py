"""How fast a point moves for a given joint motion."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring._native import kinematics as kernels
from mooring.arguments import proven
from mooring.geometry import Array
from mooring.kinematics.on_links import point_on
from mooring.tree import Tree
from mooring.tree.batches import rows


@proven
def jacobian(tree: Tree, q: ArrayLike, frame: str, point: ArrayLike = (0.0, 0.0, 0.0)) -> Array:
    """The geometric Jacobian of a point fixed to a link or frame.

    Source: Lynch and Park, Modern Robotics, 2017, chapter 5.

    Args:
        tree: from `robot.tree()`.
        q: positions, (..., n) [rad or m].
        frame: name of a link or a frame.
        point: in it, (3,) [m].

    Returns:
        (..., 6, m): angular velocity, then velocity of the point, world axes, per unit speed of
        each freedom.

    Raises:
        ModelError: nothing has that name.
        InputError: q has another length than the coordinates, or is not finite.

    Example:
        >>> from mooring import Robot
        >>> robot = Robot("wheel")
        >>> robot.add_link("post"), robot.add_link("wheel")
        (None, None)
        >>> robot.add_joint("spin", "continuous", parent="post", child="wheel")
        >>> jacobian(robot.tree(), [0.0], "wheel", (2.0, 0.0, 0.0))[:, 0].tolist()
        [0.0, 0.0, 1.0, 0.0, 2.0, 0.0]
    """
    states, shape = rows(tree, "q", q)
    jacobians = np.empty((*shape, 6, len(tree.freedoms)))
    body, where = point_on(tree, frame, point)
    kernels.jacobian(tree.native, states, body, where, jacobians)
    return jacobians
