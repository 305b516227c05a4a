"""Memory that the dynamics kernels share, so that their loops allocate nothing."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from mooring.compiling import inlined, kernel
from mooring.geometry import Array
from mooring.tree.kernels.vectors import cross, forward


class Work(NamedTuple):
    """One row a body."""

    rotation: Array
    translation: Array
    omega: Array
    """angular velocity in the body's frame"""
    omega_rate: Array
    acceleration: Array
    force: Array
    moment: Array
    inertia: Array
    """about the frame's origin"""
    first_moment: Array
    mass: Array


@kernel
def new_work(n):
    return Work(
        np.zeros((n, 3, 3)),
        np.zeros((n, 3)),
        np.zeros((n, 3)),
        np.zeros((n, 3)),
        np.zeros((n, 3)),
        np.zeros((n, 3)),
        np.zeros((n, 3)),
        np.zeros((n, 3, 3)),
        np.zeros((n, 3)),
        np.zeros(n),
    )


@inlined
def force_to_parent(tree, i, work):
    """Add a body's force, and its moment about its own origin, to those of its parent."""
    p = tree.parent[i]
    r, t = work.rotation[i], work.translation[i]
    fx, fy, fz = forward(r, work.force[i, 0], work.force[i, 1], work.force[i, 2])
    mx, my, mz = forward(r, work.moment[i, 0], work.moment[i, 1], work.moment[i, 2])
    lx, ly, lz = cross(t[0], t[1], t[2], fx, fy, fz)
    work.force[p, 0] += fx
    work.force[p, 1] += fy
    work.force[p, 2] += fz
    work.moment[p, 0] += mx + lx
    work.moment[p, 1] += my + ly
    work.moment[p, 2] += mz + lz
