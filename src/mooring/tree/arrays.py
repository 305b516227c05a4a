"""The kinematic tree as plain arrays, for kernels."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from mooring.geometry import Array

Indices = NDArray[np.int64]

FIXED, REVOLUTE, PRISMATIC = 0, 1, 2


class TreeArrays(NamedTuple):
    """One row a body; body 0 is the root, and every parent comes before its children.

    Body i hangs on its parent by joint i; body 0 by nothing (it is fixed to the world).
    """

    parent: Indices
    """(n,) index of the parent body; -1 for the root"""
    kind: Indices
    """(n,) FIXED, REVOLUTE or PRISMATIC"""
    coordinate: Indices
    """(n,) index of the joint's coordinate in q; -1 for fixed joints"""
    rotation: Array
    """(n, 3, 3) of the joint's frame in the parent's"""
    translation: Array
    """(n, 3) of the joint's frame in the parent's [m]"""
    axis: Array
    """(n, 3) unit axis in the joint's frame"""
    mass: Array
    """(n,) [kg]"""
    centre: Array
    """(n, 3) centre of mass in the body's frame [m]"""
    tensor: Array
    """(n, 3, 3) inertia about the centre of mass in the body's axes [kg m^2]"""


class LoopArrays(NamedTuple):
    """What ties coordinates together besides the tree itself."""

    follower: Indices
    """(c,) coordinate that follows"""
    leader: Indices
    """(c,) coordinate that leads"""
    ratio: Array
    """(c,)"""
    offset: Array
    """(c,)"""
    first: Indices
    """(k,) first body of each closure"""
    second: Indices
    """(k,) second body of each closure"""
    frame_on_first: Array
    """(k, 4, 4) the closure's frame on the first body, z along its axis"""
    frame_on_second: Array
    """(k, 4, 4) the same on the second body"""
    held: NDArray[np.bool_]
    """(k, 6) which relative motions are held: turning about x, y, z, then moving along x, y, z"""


class JointArrays(NamedTuple):
    """One row a coordinate."""

    lower: Array
    """(n,) [rad or m]; -inf where there is none"""
    upper: Array
    """(n,) +inf where there is none"""
    velocity: Array
    """(n,) largest speed; inf where there is none"""
    effort: Array
    """(n,) largest effort; inf where there is none"""
    damping: Array
    """(n,)"""
    friction: Array
    """(n,)"""
