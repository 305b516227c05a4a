"""What the joints do: frames from positions, and positions from velocities."""

from __future__ import annotations

from math import cos, sin, sqrt

import numpy as np

from mooring.compiling import kernel
from mooring.tree.arrays import FLOATING, PRISMATIC, REVOLUTE
from mooring.tree.kernels.vectors import forward


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
            _turn(fixed, columns, rotation[i])
        elif tree.kind[i] == FLOATING:
            k = tree.coordinate[i]
            dx, dy, dz = forward(fixed, q[k], q[k + 1], q[k + 2])
            translation[i, 0] += dx
            translation[i, 1] += dy
            translation[i, 2] += dz
            a, b, c, w = q[k + 3], q[k + 4], q[k + 5], q[k + 6]
            columns = (
                (1.0 - 2.0 * (b * b + c * c), 2.0 * (a * b + c * w), 2.0 * (a * c - b * w)),
                (2.0 * (a * b - c * w), 1.0 - 2.0 * (a * a + c * c), 2.0 * (b * c + a * w)),
                (2.0 * (a * c + b * w), 2.0 * (b * c - a * w), 1.0 - 2.0 * (a * a + b * b)),
            )
            _turn(fixed, columns, rotation[i])
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


@kernel
def _turn(fixed, columns, out):
    for k in range(3):
        ux, uy, uz = columns[k]
        rx, ry, rz = forward(fixed, ux, uy, uz)
        out[0, k] = rx
        out[1, k] = ry
        out[2, k] = rz


@kernel
def joint_positions(tree, q, positions):
    """The coordinate of each freedom (m,); zero for those of floating joints."""
    for c in range(positions.shape[0]):
        positions[c] = 0.0 if tree.position[c] < 0 else q[tree.position[c]]


@kernel
def move(tree, q, v, time):
    """Replace q (n,) by where the velocities v (m,), kept for a time, lead.

    What floats moves along a straight line and turns about a fixed axis.
    """
    for c in range(v.shape[0]):
        if tree.position[c] >= 0:
            q[tree.position[c]] += time * v[c]
    for i in range(tree.parent.shape[0]):
        if tree.kind[i] != FLOATING:
            continue
        k, f = tree.coordinate[i], tree.freedom[i]
        a, b, c, w = q[k + 3], q[k + 4], q[k + 5], q[k + 6]
        dx, dy, dz = turned(a, b, c, w, v[f + 3], v[f + 4], v[f + 5])
        q[k] += time * dx
        q[k + 1] += time * dy
        q[k + 2] += time * dz
        rx, ry, rz = 0.5 * time * v[f], 0.5 * time * v[f + 1], 0.5 * time * v[f + 2]
        half = sqrt(rx * rx + ry * ry + rz * rz)
        share = sin(half) / half if half > 1e-12 else 1.0
        rx, ry, rz, rw = share * rx, share * ry, share * rz, cos(half)
        q[k + 3] = w * rx + a * rw + b * rz - c * ry
        q[k + 4] = w * ry + b * rw + c * rx - a * rz
        q[k + 5] = w * rz + c * rw + a * ry - b * rx
        q[k + 6] = w * rw - a * rx - b * ry - c * rz
    unit_quaternions(tree, q)


@kernel
def rates(tree, q, v, out):
    """The time derivative (n,) of q."""
    for c in range(v.shape[0]):
        if tree.position[c] >= 0:
            out[tree.position[c]] = v[c]
    for i in range(tree.parent.shape[0]):
        if tree.kind[i] != FLOATING:
            continue
        k, f = tree.coordinate[i], tree.freedom[i]
        a, b, c, w = q[k + 3], q[k + 4], q[k + 5], q[k + 6]
        out[k], out[k + 1], out[k + 2] = turned(a, b, c, w, v[f + 3], v[f + 4], v[f + 5])
        x, y, z = 0.5 * v[f], 0.5 * v[f + 1], 0.5 * v[f + 2]
        out[k + 3] = w * x + b * z - c * y
        out[k + 4] = w * y + c * x - a * z
        out[k + 5] = w * z + a * y - b * x
        out[k + 6] = -a * x - b * y - c * z


@kernel
def turned(a, b, c, w, x, y, z):
    """(x, y, z) turned by the quaternion (a, b, c, w)."""
    tx, ty, tz = 2.0 * (b * z - c * y), 2.0 * (c * x - a * z), 2.0 * (a * y - b * x)
    return (
        x + w * tx + b * tz - c * ty,
        y + w * ty + c * tx - a * tz,
        z + w * tz + a * ty - b * tx,
    )


@kernel
def unit_quaternions(tree, q):
    """Take back what rounding and integration did to the lengths of quaternions, in place."""
    for i in range(tree.parent.shape[0]):
        if tree.kind[i] == FLOATING:
            k = tree.coordinate[i]
            length = np.sqrt((q[k + 3 : k + 7] * q[k + 3 : k + 7]).sum())
            for j in range(3, 7):
                q[k + j] /= length
