"""Rigid placements and rotations as plain arrays; shared by every room that places things."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]


def placement(xyz: ArrayLike = (0, 0, 0), rotation: ArrayLike | None = None) -> Array:
    """A placement (4, 4) from a translation (3,) [m] and a rotation matrix (3, 3)."""
    result = np.eye(4)
    result[:3, 3] = xyz
    if rotation is not None:
        result[:3, :3] = rotation
    return result


def inverse(place: ArrayLike) -> Array:
    """The inverse of rigid placements (..., 4, 4)."""
    place = np.asarray(place, dtype=float)
    result = np.zeros_like(place)
    turned_back = np.swapaxes(place[..., :3, :3], -1, -2)
    result[..., :3, :3] = turned_back
    result[..., :3, 3] = -np.einsum("...ij,...j->...i", turned_back, place[..., :3, 3])
    result[..., 3, 3] = 1
    return result


def apply(place: Array, points: ArrayLike) -> Array:
    """Points (n, 3) [m] moved by a placement (4, 4)."""
    return np.asarray(points, dtype=float) @ place[:3, :3].T + place[:3, 3]


def mirror_across(axis: str) -> Array:
    """The reflection (4, 4) in the plane through the origin across `"x"`, `"y"` or `"z"`."""
    mirror = np.eye(4)
    mirror["xyz".index(axis), "xyz".index(axis)] = -1.0
    return mirror


def rotation_from_rpy(rpy: ArrayLike) -> Array:
    """The rotation matrix (3, 3) of fixed-axis roll, pitch, yaw [rad], as in URDF.

    >>> rotation_from_rpy((0, 0, math.pi / 2)).round(12) + 0.0
    array([[ 0., -1.,  0.],
           [ 1.,  0.,  0.],
           [ 0.,  0.,  1.]])
    """
    roll, pitch, yaw = (float(angle) for angle in np.asarray(rpy, dtype=float))
    cr, sr = math.cos(roll), math.sin(roll)
    cp, sp = math.cos(pitch), math.sin(pitch)
    cy, sy = math.cos(yaw), math.sin(yaw)
    return np.array(
        [
            [cy * cp, cy * sp * sr - sy * cr, cy * sp * cr + sy * sr],
            [sy * cp, sy * sp * sr + cy * cr, sy * sp * cr - cy * sr],
            [-sp, cp * sr, cp * cr],
        ]
    )


def rpy_from_rotation(rotation: ArrayLike) -> Array:
    """Fixed-axis roll, pitch, yaw (3,) [rad] of a rotation matrix (3, 3); yaw is 0 at the pole."""
    r = np.asarray(rotation, dtype=float)
    cos_pitch = math.hypot(r[0, 0], r[1, 0])
    yaw = math.atan2(r[1, 0], r[0, 0]) if cos_pitch > 1e-15 else 0.0
    # Roll is taken after yaw is undone, so that near the pole the two agree with each other.
    c, s = math.cos(yaw), math.sin(yaw)
    roll = math.atan2(s * r[0, 2] - c * r[1, 2], c * r[1, 1] - s * r[0, 1])
    return np.array([roll, math.atan2(-r[2, 0], cos_pitch), yaw])


def rotation_about(axis: ArrayLike, angle: float) -> Array:
    """The rotation matrix (3, 3) by an angle [rad] about a unit axis (Rodrigues' formula)."""
    x, y, z = np.asarray(axis, dtype=float)
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    turned = np.eye(3) + math.sin(angle) * cross + (1 - math.cos(angle)) * (cross @ cross)
    return np.asarray(turned)


def frame_along(axis: ArrayLike) -> Array:
    """A rotation matrix (3, 3) whose z axis points along a direction."""
    z = np.asarray(axis, dtype=float)
    z = z / np.linalg.norm(z)
    helper = np.array([1.0, 0, 0]) if abs(z[0]) < 0.9 else np.array([0, 1.0, 0])
    if z[2] > 1 - 1e-12:
        return np.eye(3)
    x = helper - z * (helper @ z)
    x /= np.linalg.norm(x)
    return np.column_stack([x, np.cross(z, x), z])


def quaternion(rotation: Array) -> Array:
    """The rotation (3, 3) as x, y, z, w with w not below zero.

    By the largest of its four parts, which is never near zero (Shepperd, "Quaternion from Rotation
    Matrix", 1978).
    """
    trace = float(np.trace(rotation))
    parts = np.array([*np.diag(rotation), trace])
    k = int(np.argmax(parts))
    if k == 3:
        off = np.array([rotation[2, 1] - rotation[1, 2], rotation[0, 2] - rotation[2, 0],
                        rotation[1, 0] - rotation[0, 1], 1.0 + trace])  # fmt: skip
    else:
        i, j = (k + 1) % 3, (k + 2) % 3
        off = np.zeros(4)
        off[k] = 1.0 + 2.0 * rotation[k, k] - trace
        off[i] = rotation[i, k] + rotation[k, i]
        off[j] = rotation[j, k] + rotation[k, j]
        off[3] = rotation[j, i] - rotation[i, j]
    found: Array = off / np.linalg.norm(off)
    return -found if found[3] < 0 else found + 0.0
