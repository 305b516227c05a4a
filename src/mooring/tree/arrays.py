"""The kinematic tree as plain arrays, for the compiled core."""

from __future__ import annotations

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from mooring._native.tree import JOINT_CODES
from mooring.geometry import Array

Indices = NDArray[np.int64]
Motion = Literal["rotation", "translation"]
"""What a freedom does: it turns or slides."""

FIXED, REVOLUTE, PRISMATIC, FLOATING = (
    JOINT_CODES[name] for name in ("fixed", "revolute", "prismatic", "floating")
)


class TreeArrays(NamedTuple):
    """One row a body; body 0 is the root, and every parent comes before its children.

    Body i hangs on its parent by joint i; body 0 on the world, fixed or floating.

    A turning or sliding joint has one coordinate in q and one freedom in v. A floating joint has
    seven coordinates: where the body's frame is in the joint's, then the quaternion (x, y, z, w);
    and six freedoms: the body's angular velocity, then that of its origin, in the body's axes.
    """

    parent: Indices
    """(n,) index of the parent body; -1 for the root"""
    kind: Indices
    """(n,) FIXED, REVOLUTE, PRISMATIC or FLOATING"""
    coordinate: Indices
    """(n,) index of the joint's first coordinate in q; -1 for fixed joints"""
    freedom: Indices
    """(n,) index of the joint's first freedom in v; -1 for fixed joints"""
    position: Indices
    """(m,) index in q of each freedom's coordinate; -1 for those of floating joints"""
    before: Indices
    """(m,) the freedom before each one on the way from the root; -1 for the first"""
    tip: Indices
    """(n,) the last freedom that moves each body; -1 where nothing does"""
    rotor: Array
    """(m,) inertia that each freedom's drive adds on its own [kg m^2 or kg]"""
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
    """What ties freedoms together besides the tree itself."""

    follower: Indices
    """(c,) freedom that follows"""
    coupling: Indices
    """(l,) of each leader, which coupling it is of"""
    leader: Indices
    """(l,) freedoms that lead"""
    ratio: Array
    """(l,) of each leader"""
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
    """One row a freedom."""

    lower: Array
    """(m,) [rad or m]; -inf where there is none"""
    upper: Array
    """(m,) +inf where there is none"""
    velocity: Array
    """(m,) largest speed; inf where there is none"""
    effort: Array
    """(m,) largest effort; inf where there is none"""
    acceleration: Array
    """(m,) that motions keep to [rad/s^2 or m/s^2]"""
    damping: Array
    """(m,)"""
    friction: Array
    """(m,)"""
    stiffness: Array
    """(m,) of the spring that pulls it to its rest position"""
    rest: Array
    """(m,) [rad or m]"""


class SpringArrays(NamedTuple):
    """One row a spring between two bodies."""

    first: Indices
    second: Indices
    on_first: Array
    """(s, 3) where it is fixed to the first body [m]"""
    on_second: Array
    """(s, 3)"""
    stiffness: Array
    """(s,) [N/m]"""
    damping: Array
    """(s,) [N s/m]"""
    length: Array
    """(s,) at rest [m]"""
