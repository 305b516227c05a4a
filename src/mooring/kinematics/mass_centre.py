"""The centre of mass of the whole robot."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring._native import kinematics as kernels
from mooring.arguments import proven
from mooring.errors import UnsoundRobotError
from mooring.geometry import Array
from mooring.tree import Tree
from mooring.tree.batches import rows


@proven
def centre_of_mass(tree: Tree, q: ArrayLike) -> Array:
    """Where the robot's centre of mass is, (..., 3) [m], in world coordinates.

    Args:
        tree: from `robot.tree()`.
        q: positions, (..., n).

    Raises:
        InputError: q has another length than the coordinates, or is not finite.
        UnsoundRobotError: nothing has mass.
    """
    return _both(tree, q)[0]


@proven
def centre_of_mass_jacobian(tree: Tree, q: ArrayLike) -> Array:
    """How the centre of mass moves with each freedom, (..., 3, m), world axes.

    Args, Raises: as for `centre_of_mass`.
    """
    return _both(tree, q)[1]


def _both(tree: Tree, q: ArrayLike) -> tuple[Array, Array]:
    if tree.arrays.mass.sum() <= 0:
        raise UnsoundRobotError("no link has mass, so there is no centre of mass")
    states, shape = rows(tree, "q", q)
    centres = np.empty((*shape, 3))
    jacobians = np.empty((*shape, 3, len(tree.freedoms)))
    kernels.mass_centre(tree.native, states, centres, jacobians)
    return centres, jacobians
