"""Three-vectors and rotations for kernels, on scalars so that they stay in registers."""

from __future__ import annotations

from math import cos, sin

from mooring.compiling import kernel
from mooring.tree.arrays import PRISMATIC, REVOLUTE


@kernel
def cross(ax, ay, az, bx, by, bz):
    return ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx


@kernel
def forward(r, x, y, z):
    """r @ (x, y, z)"""
    return (
        r[0, 0] * x + r[0, 1] * y + r[0, 2] * z,
        r[1, 0] * x + r[1, 1] * y + r[1, 2] * z,
        r[2, 0] * x + r[2, 1] * y + r[2, 2] * z,
    )


@kernel
def backward(r, x, y, z):
    """r.T @ (x, y, z)"""
    return (
        r[0, 0] * x + r[1, 0] * y + r[2, 0] * z,
        r[0, 1] * x + r[1, 1] * y + r[2, 1] * z,
        r[0, 2] * x + r[1, 2] * y + r[2, 2] * z,
    )


@kernel
def joint_frames(tree, q, rotation, translation):
    """Each body's frame in its parent's: rotations (n, 3, 3) and translations (n, 3)."""
    for i in range(tree.parent.shape[0]):
        fixed = tree.rotation[i]
        for j in range(3):
            translation[i, j] = tree.translation[i, j]
        x, y, z = tree.axis[i, 0], tree.axis[i, 1], tree.axis[i, 2]
        if tree.kind[i] == REVOLUTE:
            angle = q[tree.coordinate[i]]
            c, s = cos(angle), sin(angle)
            d = 1.0 - c
            # Rodrigues' formula, one column of the turned frame at a time.
            columns = (
                (c + d * x * x, d * x * y + s * z, d * x * z - s * y),
                (d * x * y - s * z, c + d * y * y, d * y * z + s * x),
                (d * x * z + s * y, d * y * z - s * x, c + d * z * z),
            )
            for k in range(3):
                ux, uy, uz = columns[k]
                rx, ry, rz = forward(fixed, ux, uy, uz)
                rotation[i, 0, k] = rx
                rotation[i, 1, k] = ry
                rotation[i, 2, k] = rz
        else:
            for j in range(3):
                for k in range(3):
                    rotation[i, j, k] = fixed[j, k]
            if tree.kind[i] == PRISMATIC:
                way = q[tree.coordinate[i]]
                dx, dy, dz = forward(fixed, x, y, z)
                translation[i, 0] += way * dx
                translation[i, 1] += way * dy
                translation[i, 2] += way * dz
