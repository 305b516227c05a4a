"""Velocities that keep the loops closed."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import ArrayLike

from mooring.arguments import proven
from mooring.errors import ModelError, RunError
from mooring.geometry import Array
from mooring.kinematics.loops.closing import loop_freedoms
from mooring.kinematics.loops.equations import loop_jacobian
from mooring.tree import Tree

_LOST = 1e-9


@proven
def loop_velocities(tree: Tree, q: ArrayLike, speeds: Mapping[str, float]) -> Array:
    """The velocities of all joints when some of them are driven.

    Args:
        tree: from `robot.tree()`.
        q: one position, (n,), in which the loops are closed.
        speeds: of the driven joints [rad/s or m/s].

    Returns:
        v, (m,). Joints that are neither driven nor tied to what is are at rest; of those that are
        tied and still free to move, the slowest motion that keeps the loops closed.

    Raises:
        ModelError: no moving joint has such a name.
        RunError: no motion of the others keeps the loops closed: a dead point, or too many driven.

    Example:
        `loop_velocities(tree, q, {"extension": 0.05})[tree.freedom("luff")]`
    """
    jacobian = loop_jacobian(tree, q)
    v = np.zeros(len(tree.freedoms))
    free = loop_freedoms(tree)
    for joint, speed in speeds.items():
        row = tree.freedom(joint)
        if not np.isfinite(speed):
            raise ModelError(f"the speed of {joint!r} is not finite")
        v[row] = speed
        free[row] = False
    open_by = -jacobian @ v
    if free.any():
        v[free] = np.linalg.lstsq(jacobian[:, free], open_by, rcond=_LOST)[0]
    missed = float(np.abs(jacobian @ v).max(initial=0.0))
    if missed > 1e-7 * max(1.0, *(abs(speed) for speed in speeds.values())):
        driven = ", ".join(speeds)
        raise RunError(
            f"no motion of the other joints lets {driven} move so: the loops are at a dead point "
            "there, or too many joints are driven"
        )
    return v
