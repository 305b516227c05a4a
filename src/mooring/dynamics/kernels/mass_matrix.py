"""The joint-space mass matrix.

Composite rigid bodies (Walker and Orin 1982; Featherstone 2008, section 6.2).
"""

from __future__ import annotations

import numpy as np

from mooring.compiling import entry, inlined, kernel
from mooring.dynamics.kernels.work import new_work
from mooring.tree.arrays import FLOATING, REVOLUTE
from mooring.tree.kernels.joints import joint_frames
from mooring.tree.kernels.vectors import cross, forward

_UNITS = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))


@inlined
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
    """The mass matrix (m, m) at coordinates (n,)."""
    n = tree.parent.shape[0]
    joint_frames(tree, q, work.rotation, work.translation)
    for i in range(n):
        body_inertia(tree, i, work)
    matrix[:, :] = 0.0
    turned = np.empty((3, 3))
    for i in range(n - 1, -1, -1):
        c = tree.freedom[i]
        sx, sy, sz = tree.axis[i, 0], tree.axis[i, 1], tree.axis[i, 2]
        if tree.kind[i] == FLOATING:
            for k in range(3):
                x, y, z = _UNITS[k]
                _row(tree, i, c + k, x, y, z, 0.0, 0.0, 0.0, work, matrix)
                _row(tree, i, c + 3 + k, 0.0, 0.0, 0.0, x, y, z, work, matrix)
        elif tree.kind[i] == REVOLUTE:
            _row(tree, i, c, sx, sy, sz, 0.0, 0.0, 0.0, work, matrix)
        elif c >= 0:
            _row(tree, i, c, 0.0, 0.0, 0.0, sx, sy, sz, work, matrix)
        if i > 0:
            _add_to_parent(tree, i, work, turned)
    for c in range(matrix.shape[0]):
        matrix[c, c] += tree.rotor[c]


@inlined
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
def _row(tree, i, c, ax, ay, az, lx, ly, lz, work, matrix):
    """Row c: the force that a unit acceleration, angular a and linear l in the axes of body i,
    needs; felt by its own joint and those that carry it."""
    h, m = work.first_moment[i], work.mass[i]
    nx, ny, nz = forward(work.inertia[i], ax, ay, az)
    gx, gy, gz = cross(h[0], h[1], h[2], lx, ly, lz)
    nx, ny, nz = nx + gx, ny + gy, nz + gz
    fx, fy, fz = cross(ax, ay, az, h[0], h[1], h[2])
    fx, fy, fz = fx + m * lx, fy + m * ly, fz + m * lz
    _felt(tree, i, c, nx, ny, nz, fx, fy, fz, matrix)
    j = i
    while tree.parent[j] >= 0:
        r, t = work.rotation[j], work.translation[j]
        fx, fy, fz = forward(r, fx, fy, fz)
        nx, ny, nz = forward(r, nx, ny, nz)
        lx, ly, lz = cross(t[0], t[1], t[2], fx, fy, fz)
        nx, ny, nz = nx + lx, ny + ly, nz + lz
        j = tree.parent[j]
        _felt(tree, j, c, nx, ny, nz, fx, fy, fz, matrix)


@inlined
def _felt(tree, j, c, nx, ny, nz, fx, fy, fz, matrix):
    """What joint j feels of a moment n and a force f on its body."""
    d = tree.freedom[j]
    if d < 0:
        return
    if tree.kind[j] == FLOATING:
        load = (nx, ny, nz, fx, fy, fz)
        for k in range(6):
            matrix[c, d + k] = load[k]
            matrix[d + k, c] = load[k]
        return
    x, y, z = (nx, ny, nz) if tree.kind[j] == REVOLUTE else (fx, fy, fz)
    matrix[c, d] = tree.axis[j, 0] * x + tree.axis[j, 1] * y + tree.axis[j, 2] * z
    matrix[d, c] = matrix[c, d]


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
    """Mass matrices (b, m, m) for coordinates (b, n)."""
    work = new_work(tree.parent.shape[0])
    for b in range(q.shape[0]):
        mass_matrix(tree, q[b], work, matrices[b])
