"""How fast points move and how their motion changes."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring._native import kinematics as kernels
from mooring.arguments import proven
from mooring.geometry import Array
from mooring.kinematics.jacobian import jacobian
from mooring.kinematics.on_links import point_on
from mooring.tree import Tree
from mooring.tree.batches import matching_rows

_ORIGIN = (0.0, 0.0, 0.0)


@proven
def jacobian_rate(
    tree: Tree, q: ArrayLike, v: ArrayLike, frame: str, point: ArrayLike = _ORIGIN
) -> Array:
    """The time derivative of a Jacobian while the robot moves with velocities v.

    Args:
        tree: from `robot.tree()`.
        q: positions, (..., n).
        v: velocities, (..., m).
        frame: name of a link or a frame.
        point: in it, (3,) [m].

    Returns:
        (..., 6, m), rows as of `jacobian`.

    Raises:
        ModelError: nothing has that name.
        InputError: a state has another length than it should, or is not finite.
    """
    (positions, velocities), shape = matching_rows(tree, q=q, v=v)
    body, where = point_on(tree, frame, point)
    rates = np.empty((*shape, 6, len(tree.freedoms)))
    kernels.jacobian_rate(tree.native, positions, velocities, body, where, rates)
    return rates


@proven
def velocity(
    tree: Tree, q: ArrayLike, v: ArrayLike, frame: str, point: ArrayLike = _ORIGIN
) -> Array:
    """The velocity of a point: angular, then linear, world axes.

    Args:
        tree, q, v, frame, point: as for `jacobian_rate`.

    Returns:
        (..., 6) [rad/s and m/s].

    Raises:
        ModelError, InputError: as `jacobian_rate`.
    """
    (positions, velocities), _ = matching_rows(tree, q=q, v=v)
    moves = jacobian(tree, positions, frame, point)
    return np.asarray(np.einsum("...ij,...j->...i", moves, velocities))


@proven
def acceleration(
    tree: Tree, q: ArrayLike, v: ArrayLike, a: ArrayLike, frame: str, point: ArrayLike = _ORIGIN
) -> Array:
    """The acceleration of a point as an observer measures it: angular, then linear, world axes.

    Args:
        tree, q, v, frame, point: as for `jacobian_rate`.
        a: accelerations, (..., m).

    Returns:
        (..., 6) [rad/s^2 and m/s^2]; without gravity.

    Raises:
        ModelError, InputError: as `jacobian_rate`.
    """
    (positions, velocities, rates), _ = matching_rows(tree, q=q, v=v, a=a)
    moves = jacobian(tree, positions, frame, point)
    changes = jacobian_rate(tree, positions, velocities, frame, point)
    total = np.einsum("...ij,...j->...i", moves, rates)
    return np.asarray(total + np.einsum("...ij,...j->...i", changes, velocities))
