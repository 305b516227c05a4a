"""Springs: those of joints that pull to a rest position, and those between two bodies."""

from __future__ import annotations

from math import sqrt

import numpy as np

from mooring.compiling import entry, kernel
from mooring.kinematics.kernels.poses import point_jacobian, world_frames
from mooring.tree.kernels.joints import joint_positions
from mooring.tree.kernels.vectors import forward


@kernel
def spring_rows(tree, springs, q, lengths, rows):
    """The length (s,) of each spring, and its derivative (s, m) by motion of each freedom."""
    count = springs.first.shape[0]
    if count == 0:
        return
    bodies = tree.parent.shape[0]
    rotation = np.empty((bodies, 3, 3))
    translation = np.empty((bodies, 3))
    world_frames(tree, q, rotation, translation)
    on_first = np.empty((6, rows.shape[1]))
    on_second = np.empty((6, rows.shape[1]))
    for s in range(count):
        ax, ay, az = _end(rotation, translation, springs.first[s], springs.on_first[s])
        bx, by, bz = _end(rotation, translation, springs.second[s], springs.on_second[s])
        dx, dy, dz = bx - ax, by - ay, bz - az
        length = sqrt(dx * dx + dy * dy + dz * dz)
        lengths[s] = length
        rows[s] = 0.0
        if length < 1e-12:
            continue
        point_jacobian(tree, rotation, translation, springs.first[s], ax, ay, az, on_first)
        point_jacobian(tree, rotation, translation, springs.second[s], bx, by, bz, on_second)
        for c in range(rows.shape[1]):
            rows[s, c] = (
                dx * (on_second[3, c] - on_first[3, c])
                + dy * (on_second[4, c] - on_first[4, c])
                + dz * (on_second[5, c] - on_first[5, c])
            ) / length


@kernel
def _end(rotation, translation, body, point):
    x, y, z = forward(rotation[body], point[0], point[1], point[2])
    return x + translation[body, 0], y + translation[body, 1], z + translation[body, 2]


@kernel
def add_pull(joints, springs, positions, lengths, rows, tau):
    """Add the efforts (m,) of all springs at a state, without those of their dampers."""
    for c in range(tau.shape[0]):
        tau[c] -= joints.stiffness[c] * (positions[c] - joints.rest[c])
    for s in range(springs.first.shape[0]):
        force = springs.stiffness[s] * (lengths[s] - springs.length[s])
        for c in range(tau.shape[0]):
            tau[c] -= rows[s, c] * force


@entry
def batch_spring_efforts(tree, joints, springs, q, tau):
    """Efforts (b, m) of all springs at rest, at positions (b, n)."""
    count, freedoms = springs.first.shape[0], tau.shape[1]
    lengths = np.empty(count)
    rows = np.zeros((count, freedoms))
    positions = np.empty(freedoms)
    for b in range(q.shape[0]):
        joint_positions(tree, q[b], positions)
        spring_rows(tree, springs, q[b], lengths, rows)
        tau[b] = 0.0
        add_pull(joints, springs, positions, lengths, rows, tau[b])
