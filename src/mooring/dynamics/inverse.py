"""The efforts that a motion needs."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring._native import dynamics as kernels
from mooring.arguments import proven
from mooring.dynamics.gravity import DOWNWARDS, pull
from mooring.geometry import Array
from mooring.threads import most_threads
from mooring.tree import Tree
from mooring.tree.batches import matching_rows


@proven
def inverse_dynamics(
    tree: Tree,
    q: ArrayLike,
    v: ArrayLike,
    a: ArrayLike,
    gravity: ArrayLike = DOWNWARDS,
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
    (positions, velocities, accelerations), _ = matching_rows(tree, q=q, v=v, a=a)
    tau = np.empty_like(velocities)
    kernels.inverse_dynamics(
        tree.native, positions, velocities, accelerations, pull(gravity), most_threads(), tau
    )
    return tau
