"""What a simulation needs besides the tree, as plain arrays for kernels."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from mooring.geometry import Array
from mooring.tree.arrays import Indices


class MotorArrays(NamedTuple):
    """One row a motor."""

    freedom: Indices
    p: Array
    d: Array
    effort: Array
    """largest effort; inf where there is none"""
    trips: NDArray[np.bool_]
    """whether it stays off once it has come to its largest effort"""


class Timeline(NamedTuple):
    """The motion of the targets; see `kernels.timeline`."""

    starts: Array
    ends: Array
    points: Array


class Columns(NamedTuple):
    """What is recorded, one row an instant."""

    time: Array
    position: Array
    velocity: Array
    target: Array
    """(r, motors)"""
    effort: Array
    """(r, motors)"""
    energy: Array
    """(r, 5): kinetic, potential, given by motors, lost to damping, lost to friction [J]"""
    gap: Array
    """(r,) largest gap of couplings and closures"""


class Ledger(NamedTuple):
    """The state of a run; kernels update it in place."""

    q: Array
    v: Array
    status: Indices
    """of each bounded row, kept from step to step"""
    effort: Array
    """of each motor in the last step"""
    tripped: Array
    """(motors,) when it tripped [s]; inf for not yet"""
    work: Array
    """(3,): given by motors, lost to damping, lost to friction [J]"""
    stop_time: Array
    """(m, 2) when the lower and the upper stop first pushed [s]; inf for never"""
