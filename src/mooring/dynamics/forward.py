"""The accelerations that efforts cause."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring._native import dynamics as kernels
from mooring._native.tree import finite
from mooring.arguments import proven
from mooring.dynamics.gravity import DOWNWARDS, pull
from mooring.errors import UnsoundRobotError
from mooring.geometry import Array
from mooring.threads import most_threads
from mooring.tree import Tree
from mooring.tree.batches import matching_rows


@proven
def forward_dynamics(
    tree: Tree,
    q: ArrayLike,
    v: ArrayLike,
    tau: ArrayLike,
    gravity: ArrayLike = DOWNWARDS,
) -> Array:
    """The joint accelerations under given efforts, by articulated bodies (Featherstone 2008, 7.3).

    Couplings, closures, limits, damping and friction are not in it: it is the open, frictionless
    tree; `mooring.simulate` has them all.

    Args:
        tree: from `robot.tree()`.
        q: positions, (..., n).
        v, tau: velocities and efforts, (..., m); for what floats, the moment about its origin and
            the force, in its own axes.
        gravity: (3,) [m/s^2], world axes.

    Returns:
        a, (..., m) [rad/s^2 or m/s^2].

    Raises:
        InputError: a state has another length than the coordinates, or is not finite.
        UnsoundRobotError: a joint moves nothing that has mass.

    Example:
        >>> from mooring import Robot
        >>> robot = Robot("lift")
        >>> robot.add_link("post")
        >>> robot.add_link("carriage", mass=10.0, inertia=(1, 1, 1))
        >>> robot.add_joint("lift", "prismatic", parent="post", child="carriage")
        >>> forward_dynamics(robot.tree(), [0.0], [0.0], [108.0665]).round(4).tolist()
        [1.0]
    """
    (positions, velocities, efforts), _ = matching_rows(tree, q=q, v=v, tau=tau)
    a = np.empty_like(velocities)
    kernels.forward_dynamics(
        tree.native, positions, velocities, efforts, pull(gravity), most_threads(), a
    )
    if not finite(a):
        raise UnsoundRobotError(
            "the accelerations are not finite: a joint moves nothing that has mass"
            + (
                f" (no mass is known for {', '.join(tree.without_mass)})"
                if tree.without_mass
                else ""
            )
        )
    return a
