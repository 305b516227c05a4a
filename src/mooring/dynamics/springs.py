"""What springs pull with."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring._native import dynamics as kernels
from mooring.arguments import proven
from mooring.geometry import Array
from mooring.tree import Tree
from mooring.tree.batches import rows


@proven
def spring_efforts(tree: Tree, q: ArrayLike) -> Array:
    """The efforts of all springs, of joints and between frames, on the robot at rest.

    Args:
        tree: from `robot.tree()`.
        q: positions, (..., n).

    Returns:
        tau, (..., m) [N m or N]; what they push the joints with.

    Raises:
        InputError: q has another length than the coordinates, or is not finite.
    """
    states, shape = rows(tree, "q", q)
    tau = np.empty((*shape, len(tree.freedoms)))
    kernels.spring_efforts(tree.native, states, tau)
    return tau
