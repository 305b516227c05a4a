"""Poses of all bodies, and Jacobians, in world coordinates."""

from __future__ import annotations

import numpy as np

from mooring.compiling import entry, kernel
from mooring.tree.arrays import FLOATING, PRISMATIC, REVOLUTE
from mooring.tree.kernels.joints import joint_frames
from mooring.tree.kernels.vectors import cross, forward


@kernel
def world_frames(tree, q, rotation, translation):
    """World rotations (n, 3, 3) and origins (n, 3) of all bodies, in place."""
    joint_frames(tree, q, rotation, translation)
    turned = np.empty((3, 3))
    for i in range(tree.parent.shape[0]):
        p = tree.parent[i]
        if p < 0:
            continue
        x, y, z = forward(rotation[p], translation[i, 0], translation[i, 1], translation[i, 2])
        translation[i, 0] = translation[p, 0] + x
        translation[i, 1] = translation[p, 1] + y
        translation[i, 2] = translation[p, 2] + z
        for k in range(3):
            x, y, z = forward(rotation[p], rotation[i, 0, k], rotation[i, 1, k], rotation[i, 2, k])
            turned[0, k] = x
            turned[1, k] = y
            turned[2, k] = z
        for j in range(3):
            for k in range(3):
                rotation[i, j, k] = turned[j, k]


@entry
def batch_poses(tree, q, poses):
    """Poses (b, bodies, 4, 4) for coordinates (b, n)."""
    count = tree.parent.shape[0]
    rotation = np.empty((count, 3, 3))
    translation = np.empty((count, 3))
    for b in range(q.shape[0]):
        world_frames(tree, q[b], rotation, translation)
        for i in range(count):
            for j in range(3):
                for k in range(3):
                    poses[b, i, j, k] = rotation[i, j, k]
                poses[b, i, j, 3] = translation[i, j]
                poses[b, i, 3, j] = 0.0
            poses[b, i, 3, 3] = 1.0


@kernel
def point_jacobian(tree, rotation, translation, body, x, y, z, out):
    """Jacobian (6, m) of a point fixed to a body: angular rows first, world axes."""
    out[:, :] = 0.0
    i = body
    while i >= 0:
        c = tree.freedom[i]
        ax, ay, az = forward(rotation[i], tree.axis[i, 0], tree.axis[i, 1], tree.axis[i, 2])
        if tree.kind[i] == REVOLUTE:
            lx, ly, lz = cross(
                ax, ay, az, x - translation[i, 0], y - translation[i, 1], z - translation[i, 2]
            )
            out[0, c] = ax
            out[1, c] = ay
            out[2, c] = az
            out[3, c] = lx
            out[4, c] = ly
            out[5, c] = lz
        elif tree.kind[i] == PRISMATIC:
            out[3, c] = ax
            out[4, c] = ay
            out[5, c] = az
        elif tree.kind[i] == FLOATING:
            rx, ry, rz = x - translation[i, 0], y - translation[i, 1], z - translation[i, 2]
            for k in range(3):
                ax, ay, az = rotation[i, 0, k], rotation[i, 1, k], rotation[i, 2, k]
                lx, ly, lz = cross(ax, ay, az, rx, ry, rz)
                out[0, c + k], out[1, c + k], out[2, c + k] = ax, ay, az
                out[3, c + k], out[4, c + k], out[5, c + k] = lx, ly, lz
                out[3, c + 3 + k], out[4, c + 3 + k], out[5, c + 3 + k] = ax, ay, az
        i = tree.parent[i]


@entry
def batch_jacobian(tree, q, body, point, jacobians):
    """Jacobians (b, 6, m) of a point (3,) given in a body's frame."""
    count = tree.parent.shape[0]
    rotation = np.empty((count, 3, 3))
    translation = np.empty((count, 3))
    for b in range(q.shape[0]):
        world_frames(tree, q[b], rotation, translation)
        x, y, z = forward(rotation[body], point[0], point[1], point[2])
        x += translation[body, 0]
        y += translation[body, 1]
        z += translation[body, 2]
        point_jacobian(tree, rotation, translation, body, x, y, z, jacobians[b])
