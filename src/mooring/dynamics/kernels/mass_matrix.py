"""The joint-space mass matrix.

Composite rigid bodies (Walker and Orin 1982; Featherstone 2008, section 6.2).
"""

from __future__ import annotations

import numpy as np

from mooring.compiling import entry, kernel
from mooring.dynamics.kernels.work import new_work
from mooring.tree.arrays import REVOLUTE
from mooring.tree.kernels.vectors import cross, forward, joint_frames


@kernel
def body_inertia(tree, i, work):
    """A body's own mass, first moment and inertia about its frame's origin, into the work rows."""
    m, com = tree.mass[i], tree.centre[i]
    work.mass[i] = m
    squared = com[0] * com[0] + com[1] * com[1] + com[2] * com[2]
    for j in range(3):
        work.first_moment[i, j] = m * com[j]
        for k in range(3):
            work.inertia[i, j, k] = tree.tensor[i, j, k] - m * com[j] * com[k]
        work.inertia[i, j, j] += m * squared


@kernel
def mass_matrix(tree, q, work, matrix):
    """The mass matrix (m, m) at coordinates (m,)."""
    n = tree.parent.shape[0]
    joint_frames(tree, q, work.rotation, work.translation)
    for i in range(n):
        body_inertia(tree, i, work)
    matrix[:, :] = 0.0
    turned = np.empty((3, 3))
    for i in range(n - 1, 0, -1):
        if tree.coordinate[i] >= 0:
            _row(tree, i, work, matrix)
        _add_to_parent(tree, i, work, turned)


@kernel
def _add_to_parent(tree, i, work, turned):
    p = tree.parent[i]
    r, t = work.rotation[i], work.translation[i]
    m = work.mass[i]
    hx, hy, hz = forward(
        r, work.first_moment[i, 0], work.first_moment[i, 1], work.first_moment[i, 2]
    )
    h = (hx, hy, hz)
    rotate_tensor(r, work.inertia[i], turned)
    along = t[0] * hx + t[1] * hy + t[2] * hz
    squared = t[0] * t[0] + t[1] * t[1] + t[2] * t[2]
    for j in range(3):
        for k in range(3):
            shift = -t[j] * h[k] - h[j] * t[k] - m * t[j] * t[k]
            work.inertia[p, j, k] += turned[j, k] + shift
        work.inertia[p, j, j] += 2.0 * along + m * squared
        work.first_moment[p, j] += h[j] + m * t[j]
    work.mass[p] += m


@kernel
def _row(tree, i, work, matrix):
    """One row: the force that unit acceleration of joint i needs, felt by it and those below it."""
    c = tree.coordinate[i]
    sx, sy, sz = tree.axis[i, 0], tree.axis[i, 1], tree.axis[i, 2]
    h = work.first_moment[i]
    if tree.kind[i] == REVOLUTE:
        nx, ny, nz = forward(work.inertia[i], sx, sy, sz)
        fx, fy, fz = cross(sx, sy, sz, h[0], h[1], h[2])
        matrix[c, c] = sx * nx + sy * ny + sz * nz
    else:
        nx, ny, nz = cross(h[0], h[1], h[2], sx, sy, sz)
        fx, fy, fz = sx * work.mass[i], sy * work.mass[i], sz * work.mass[i]
        matrix[c, c] = work.mass[i]
    j = i
    while tree.parent[j] > 0:
        r, t = work.rotation[j], work.translation[j]
        fx, fy, fz = forward(r, fx, fy, fz)
        nx, ny, nz = forward(r, nx, ny, nz)
        lx, ly, lz = cross(t[0], t[1], t[2], fx, fy, fz)
        nx, ny, nz = nx + lx, ny + ly, nz + lz
        j = tree.parent[j]
        d = tree.coordinate[j]
        if d < 0:
            continue
        ax, ay, az = tree.axis[j, 0], tree.axis[j, 1], tree.axis[j, 2]
        if tree.kind[j] == REVOLUTE:
            value = ax * nx + ay * ny + az * nz
        else:
            value = ax * fx + ay * fy + az * fz
        matrix[c, d] = value
        matrix[d, c] = value


@kernel
def rotate_tensor(r, tensor, out):
    """r @ tensor @ r.T"""
    for k in range(3):
        x, y, z = forward(tensor, r[k, 0], r[k, 1], r[k, 2])
        a, b, c = forward(r, x, y, z)
        out[0, k] = a
        out[1, k] = b
        out[2, k] = c


@entry
def batch_mass_matrix(tree, q, matrices):
    """Mass matrices (b, m, m) for coordinates (b, m)."""
    work = new_work(tree.parent.shape[0])
    for b in range(q.shape[0]):
        mass_matrix(tree, q[b], work, matrices[b])
