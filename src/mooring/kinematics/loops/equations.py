"""The equations of couplings and closures at a position."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring._native import kinematics as kernels
from mooring.arguments import proven
from mooring.errors import InputError
from mooring.geometry import Array
from mooring.tree import Tree
from mooring.tree.batches import rows


@proven
def loop_jacobian(tree: Tree, q: ArrayLike) -> Array:
    """How the gaps of couplings and closures change with each freedom.

    A motion v keeps the loops closed where `loop_jacobian(tree, q) @ v` is zero.

    Args:
        tree: from `robot.tree()`.
        q: one position, (n,), in which the loops are closed.

    Returns:
        (k, m): a row for each coupling, then for each held direction of each closure (turning
        about x, y, z, then moving along them, in the closure's frame on its first link).

    Raises:
        InputError: q has another length than the coordinates, or is not finite.
    """
    states, shape = rows(tree, "q", q)
    if shape:
        raise InputError(f"q has shape {np.shape(q)}; loops are looked at one position at a time")
    return equations(tree, states)[1]


def equations(tree: Tree, q: Array) -> tuple[Array, Array]:
    """Gaps (k,), and how they change with each freedom (k, m)."""
    count = kernels.loop_count(tree.native)
    gap = np.zeros(count)
    jacobian = np.zeros((count, len(tree.freedoms)))
    kernels.loop_equations(tree.native, q, gap, jacobian)
    return gap, jacobian
