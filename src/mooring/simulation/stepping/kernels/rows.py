"""Rows of the system of a step: how fast something changes, by the velocity of each freedom.

A row belongs to a wrench: the moment about the world's origin and the force that one unit of its
impulse puts on the second body, and takes from the first; and, of a force, where it is put.
"""

from __future__ import annotations

from mooring.compiling import kernel
from mooring.simulation.contact.kernels.faces import plane_axes


@kernel
def wrench_row(tree_before, tip, motion, a, b, wrench, r, jacobian):
    """Fill row r of jacobian (rows, m) from wrench[r] between bodies a and b; -1 is the world."""
    for c in range(jacobian.shape[1]):
        jacobian[r, c] = 0.0
    nx, ny, nz = wrench[r, 0], wrench[r, 1], wrench[r, 2]
    fx, fy, fz = wrench[r, 3], wrench[r, 4], wrench[r, 5]
    for side in range(2):
        body = b if side == 0 else a
        if body < 0:
            continue
        sign = 1.0 if side == 0 else -1.0
        c = tip[body]
        while c >= 0:
            jacobian[r, c] += sign * (
                motion[c, 0] * nx + motion[c, 1] * ny + motion[c, 2] * nz + motion[c, 3] * fx
                + motion[c, 4] * fy + motion[c, 5] * fz
            )  # fmt: skip
            c = tree_before[c]


@kernel
def force_at(wrench, r, x, y, z, fx, fy, fz):
    """Let wrench[r] be a force at a point."""
    wrench[r, 0], wrench[r, 1], wrench[r, 2] = y * fz - z * fy, z * fx - x * fz, x * fy - y * fx
    wrench[r, 3], wrench[r, 4], wrench[r, 5] = fx, fy, fz
    wrench[r, 6], wrench[r, 7], wrench[r, 8] = x, y, z


@kernel
def moment_about(wrench, r, nx, ny, nz):
    """Let wrench[r] be a moment."""
    wrench[r, 0], wrench[r, 1], wrench[r, 2] = nx, ny, nz
    wrench[r, 3], wrench[r, 4], wrench[r, 5] = 0.0, 0.0, 0.0


@kernel
def contact_wrenches(where, c, r, wrench):
    """The wrenches of a contact from row r on: its normal and two ways across it, then where there
    is such friction spinning, and rolling about the two ways; returns how many."""
    x, y, z = where[c, 0], where[c, 1], where[c, 2]
    nx, ny, nz = where[c, 3], where[c, 4], where[c, 5]
    ux, uy, uz, vx, vy, vz = plane_axes(nx, ny, nz)
    force_at(wrench, r, x, y, z, nx, ny, nz)
    force_at(wrench, r + 1, x, y, z, ux, uy, uz)
    force_at(wrench, r + 2, x, y, z, vx, vy, vz)
    size = 3
    if where[c, 10] > 0.0:
        moment_about(wrench, r + size, nx, ny, nz)
        size += 1
    if where[c, 9] > 0.0:
        moment_about(wrench, r + size, ux, uy, uz)
        moment_about(wrench, r + size + 1, vx, vy, vz)
        size += 2
    return size


@kernel
def dot_row(matrix, r, x):
    """Row r of a matrix times a vector."""
    total = 0.0
    for c in range(x.shape[0]):
        total += matrix[r, c] * x[c]
    return total


@kernel
def copy(x, out):
    """out = x"""
    for k in range(x.shape[0]):
        out[k] = x[k]


@kernel
def copy_row(out, row, x):
    """out[row] = x"""
    for k in range(x.shape[0]):
        out[row, k] = x[k]
