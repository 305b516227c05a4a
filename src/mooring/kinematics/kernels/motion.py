"""Velocities of all bodies, the rate of change of Jacobians, and the centre of mass."""

from __future__ import annotations

import numpy as np

from mooring.compiling import entry, kernel
from mooring.kinematics.kernels.poses import point_jacobian, world_frames
from mooring.tree.arrays import FLOATING, PRISMATIC, REVOLUTE
from mooring.tree.kernels.vectors import cross, forward


@kernel
def world_velocities(tree, v, rotation, translation, omega, velocity):
    """Angular velocities (n, 3), and velocities of origins (n, 3), in world axes, in place."""
    for i in range(tree.parent.shape[0]):
        p = tree.parent[i]
        wx, wy, wz, ux, uy, uz = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
        if p >= 0:
            wx, wy, wz = omega[p, 0], omega[p, 1], omega[p, 2]
            rx = translation[i, 0] - translation[p, 0]
            ry = translation[i, 1] - translation[p, 1]
            rz = translation[i, 2] - translation[p, 2]
            ux, uy, uz = cross(wx, wy, wz, rx, ry, rz)
            ux, uy, uz = ux + velocity[p, 0], uy + velocity[p, 1], uz + velocity[p, 2]
        c = tree.freedom[i]
        ax, ay, az = forward(rotation[i], tree.axis[i, 0], tree.axis[i, 1], tree.axis[i, 2])
        if tree.kind[i] == REVOLUTE:
            wx, wy, wz = wx + v[c] * ax, wy + v[c] * ay, wz + v[c] * az
        elif tree.kind[i] == PRISMATIC:
            ux, uy, uz = ux + v[c] * ax, uy + v[c] * ay, uz + v[c] * az
        elif tree.kind[i] == FLOATING:
            ax, ay, az = forward(rotation[i], v[c], v[c + 1], v[c + 2])
            wx, wy, wz = wx + ax, wy + ay, wz + az
            ax, ay, az = forward(rotation[i], v[c + 3], v[c + 4], v[c + 5])
            ux, uy, uz = ux + ax, uy + ay, uz + az
        omega[i, 0], omega[i, 1], omega[i, 2] = wx, wy, wz
        velocity[i, 0], velocity[i, 1], velocity[i, 2] = ux, uy, uz


@kernel
def jacobian_rate(tree, rotation, translation, omega, velocity, body, x, y, z, out):
    """The time derivative (6, m) of `point_jacobian`, for a point fixed to the body."""
    out[:, :] = 0.0
    dx, dy, dz = cross(
        omega[body, 0], omega[body, 1], omega[body, 2],
        x - translation[body, 0], y - translation[body, 1], z - translation[body, 2],
    )  # fmt: skip
    dx, dy, dz = dx + velocity[body, 0], dy + velocity[body, 1], dz + velocity[body, 2]
    i = body
    while i >= 0:
        c = tree.freedom[i]
        rx, ry, rz = x - translation[i, 0], y - translation[i, 1], z - translation[i, 2]
        sx, sy, sz = dx - velocity[i, 0], dy - velocity[i, 1], dz - velocity[i, 2]
        # An axis is fixed to its body, and turns with it.
        if tree.kind[i] == REVOLUTE or tree.kind[i] == PRISMATIC:
            ax, ay, az = forward(rotation[i], tree.axis[i, 0], tree.axis[i, 1], tree.axis[i, 2])
            turns = tree.kind[i] == REVOLUTE
            _column(turns, ax, ay, az, omega[i], rx, ry, rz, sx, sy, sz, out[:, c])
        elif tree.kind[i] == FLOATING:
            for k in range(3):
                ax, ay, az = rotation[i, 0, k], rotation[i, 1, k], rotation[i, 2, k]
                _column(True, ax, ay, az, omega[i], rx, ry, rz, sx, sy, sz, out[:, c + k])
                _column(False, ax, ay, az, omega[i], rx, ry, rz, sx, sy, sz, out[:, c + 3 + k])
        i = tree.parent[i]


@kernel
def _column(turns, ax, ay, az, w, rx, ry, rz, sx, sy, sz, out):
    bx, by, bz = cross(w[0], w[1], w[2], ax, ay, az)
    if not turns:
        out[3], out[4], out[5] = bx, by, bz
        return
    out[0], out[1], out[2] = bx, by, bz
    cx, cy, cz = cross(bx, by, bz, rx, ry, rz)
    ex, ey, ez = cross(ax, ay, az, sx, sy, sz)
    out[3], out[4], out[5] = cx + ex, cy + ey, cz + ez


@entry
def batch_jacobian_rate(tree, q, v, body, point, rates):
    """Rates (b, 6, m) of the Jacobian of a point (3,) given in a body's frame."""
    count = tree.parent.shape[0]
    rotation = np.empty((count, 3, 3))
    translation = np.empty((count, 3))
    omega = np.empty((count, 3))
    velocity = np.empty((count, 3))
    for b in range(q.shape[0]):
        world_frames(tree, q[b], rotation, translation)
        world_velocities(tree, v[b], rotation, translation, omega, velocity)
        x, y, z = forward(rotation[body], point[0], point[1], point[2])
        x, y, z = x + translation[body, 0], y + translation[body, 1], z + translation[body, 2]
        jacobian_rate(tree, rotation, translation, omega, velocity, body, x, y, z, rates[b])


@entry
def batch_mass_centre(tree, q, centres, jacobians):
    """Centres of mass (b, 3) and their Jacobians (b, 3, m)."""
    count = tree.parent.shape[0]
    rotation = np.empty((count, 3, 3))
    translation = np.empty((count, 3))
    own = np.empty((6, jacobians.shape[2]))
    total = tree.mass.sum()
    for b in range(q.shape[0]):
        world_frames(tree, q[b], rotation, translation)
        centres[b] = 0.0
        jacobians[b] = 0.0
        for i in range(count):
            share = tree.mass[i] / total
            x, y, z = forward(rotation[i], tree.centre[i, 0], tree.centre[i, 1], tree.centre[i, 2])
            x, y, z = x + translation[i, 0], y + translation[i, 1], z + translation[i, 2]
            centres[b, 0] += share * x
            centres[b, 1] += share * y
            centres[b, 2] += share * z
            point_jacobian(tree, rotation, translation, i, x, y, z, own)
            for j in range(3):
                for c in range(own.shape[1]):
                    jacobians[b, j, c] += share * own[3 + j, c]
