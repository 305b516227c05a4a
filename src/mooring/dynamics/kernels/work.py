"""Memory that the dynamics kernels share, so that their loops allocate nothing."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from mooring.compiling import kernel
from mooring.geometry import Array


class Work(NamedTuple):
    """One row a body."""

    rotation: Array
    translation: Array
    omega: Array
    """angular velocity in the body's frame"""
    linear: Array
    """velocity of the frame's origin"""
    omega_rate: Array
    acceleration: Array
    force: Array
    moment: Array
    inertia: Array
    """about the frame's origin: composite or articulated, the angular block"""
    coupling: Array
    """(n, 3, 3) articulated inertia, the block between moment and linear acceleration"""
    heft: Array
    """(n, 3, 3) articulated inertia, the linear block"""
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
        np.zeros((n, 3)),
        np.zeros((n, 3, 3)),
        np.zeros((n, 3, 3)),
        np.zeros((n, 3, 3)),
        np.zeros((n, 3)),
        np.zeros(n),
    )
