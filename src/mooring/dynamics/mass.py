"""The mass matrix, and the energies that follow from it."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring._native import dynamics as kernels
from mooring.arguments import proven
from mooring.dynamics.gravity import DOWNWARDS, pull
from mooring.geometry import Array
from mooring.kinematics import link_poses
from mooring.tree import Tree
from mooring.tree.batches import matching_rows, rows


@proven
def mass_matrix(tree: Tree, q: ArrayLike) -> Array:
    """The joint-space mass matrix, by composite rigid bodies (Featherstone 2008, section 6.2).

    Couplings and closures are not in it: it is that of the open tree.

    Args:
        tree: from `robot.tree()`.
        q: positions, (..., n) [rad or m].

    Returns:
        (..., m, m), symmetric [kg m^2, kg m or kg].

    Raises:
        InputError: q has another length than the coordinates, or is not finite.

    Example:
        >>> from mooring import Robot
        >>> robot = Robot("crank")
        >>> robot.add_link("post")
        >>> robot.add_link("arm", mass=2.0, centre=(3.0, 0, 0), inertia=(0.0, 0.5, 0.5))
        >>> robot.add_joint("turn", "continuous", parent="post", child="arm")
        >>> mass_matrix(robot.tree(), [0.3]).tolist()
        [[18.5]]
    """
    states, shape = rows(tree, "q", q)
    count = len(tree.freedoms)
    matrices = np.empty((*shape, count, count))
    kernels.mass_matrix(tree.native, states, matrices)
    return matrices


@proven
def kinetic_energy(tree: Tree, q: ArrayLike, v: ArrayLike) -> Array:
    """Kinetic energy (...) [J] for positions (..., n) and velocities (..., m)."""
    (positions, velocities), _ = matching_rows(tree, q=q, v=v)
    matrices = mass_matrix(tree, positions)
    return np.asarray(0.5 * np.einsum("...i,...ij,...j->...", velocities, matrices, velocities))


@proven
def potential_energy(tree: Tree, q: ArrayLike, gravity: ArrayLike = DOWNWARDS) -> Array:
    """Potential energy (...) [J] in a uniform gravity (3,) [m/s^2]; zero at the world's origin."""
    poses = link_poses(tree, q)
    centres = np.einsum("...lij,lj->...li", poses[..., :3, :3], tree.arrays.centre)
    centres = centres + poses[..., :3, 3]
    return np.asarray(-np.einsum("l,...li,i->...", tree.arrays.mass, centres, pull(gravity)))
