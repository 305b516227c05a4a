"""The efforts that a motion needs."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring.compiling import compiles
from mooring.dynamics.kernels.bodies import batch_inverse_dynamics
from mooring.geometry import Array
from mooring.standard import STANDARD_GRAVITY
from mooring.tree import Tree
from mooring.tree.batches import matching_rows


@compiles("inverse dynamics")
def inverse_dynamics(
    tree: Tree,
    q: ArrayLike,
    v: ArrayLike,
    a: ArrayLike,
    gravity: ArrayLike = (0.0, 0.0, -STANDARD_GRAVITY),
) -> Array:
    """The joint efforts of a motion, by recursive Newton-Euler (Featherstone 2008, section 5.3).

    Couplings, closures, damping and friction are not in it: it is the open, frictionless tree.

    Args:
        tree: from `robot.tree()`.
        q: positions, (..., n).
        v, a: velocities and accelerations, (..., m); what floats in its own axes.
        gravity: (3,) [m/s^2], world axes.

    Returns:
        tau, (..., m) [N m or N].

    Raises:
        InputError: a state has another length than the coordinates, or is not finite.

    Example:
        >>> from mooring import Robot
        >>> robot = Robot("lift")
        >>> robot.add_link("post")
        >>> robot.add_link("carriage", mass=10.0, inertia=(1, 1, 1))
        >>> robot.add_joint("lift", "prismatic", parent="post", child="carriage")
        >>> inverse_dynamics(robot.tree(), [0.0], [0.0], [1.0]).round(4).tolist()
        [108.0665]
    """
    (positions, velocities, accelerations), shape = matching_rows(tree, q=q, v=v, a=a)
    tau = np.zeros_like(velocities)
    pull = np.ascontiguousarray(gravity, dtype=float)
    batch_inverse_dynamics(tree.arrays, positions, velocities, accelerations, pull, tau)
    return tau.reshape(*shape, len(tree.freedoms))
