"""What floats, from one step to the next.

Its velocities are told in its own axes, which turn with it. Left to an explicit step, the terms
that stand for this turning feed energy into everything that spins. So a step treats these axes as
standing still, and afterwards the velocities are told anew in the axes as they have become. For a
loose body, which carries no other joint, it is the momentum that is carried over: its linear and
angular momentum in the world stay exactly what impulses have made them.
"""

from __future__ import annotations

from math import cos, sin, sqrt

import numpy as np

from mooring.compiling import kernel
from mooring.tree.arrays import FLOATING
from mooring.tree.kernels.joints import turned


@kernel
def find_loose(tree):
    """Which bodies (b,) float free of the world and carry no other joint."""
    bodies = tree.parent.shape[0]
    loose = np.zeros(bodies, dtype=np.bool_)
    for i in range(bodies):
        p = tree.parent[i]
        if tree.kind[i] == FLOATING and (p < 0 or tree.tip[p] < 0):
            last = tree.freedom[i] + 5
            loose[i] = True
            for c in range(tree.before.shape[0]):
                if c > last and tree.before[c] == last:
                    loose[i] = False
    return loose


@kernel
def stand_still(tree, loose, weight, push, motion, bias):
    """Take what turning axes do out of the efforts (m,) that loose bodies resist with."""
    for i in range(loose.shape[0]):
        if loose[i]:
            first = tree.freedom[i]
            for c in range(first, first + 6):
                bias[c] = weight[c]
    for i in range(push.shape[0]):
        last = tree.tip[i]
        owner = _owner(tree, i)
        if last >= 0 and loose[owner]:
            for c in range(last - 5, last + 1):
                for j in range(6):
                    bias[c] -= motion[c, j] * push[i, j]


@kernel
def _owner(tree, i):
    """The body whose joint moves body i last."""
    while i > 0 and tree.freedom[i] < 0:
        i = tree.parent[i]
    return i


@kernel
def add_turning(tree, loose, v, h, free):
    """As `stand_still`, for what floats and carries more: in velocities (m,) without contact."""
    for i in range(loose.shape[0]):
        if tree.kind[i] == FLOATING and not loose[i]:
            c = tree.freedom[i]
            x, y, z, a, b, d = v[c], v[c + 1], v[c + 2], v[c + 3], v[c + 4], v[c + 5]
            free[c + 3] += h * (y * d - z * b)
            free[c + 4] += h * (z * a - x * d)
            free[c + 5] += h * (x * b - y * a)


@kernel
def turn_axes(tree, loose, matrix, rate, h, whole, momentum, v):
    """Tell velocities (m,) in axes that have moved at `rate` (m,) for a step. `whole` (6, 6) and
    `momentum` (6,) are scratch."""
    for i in range(loose.shape[0]):
        if tree.kind[i] != FLOATING:
            continue
        c = tree.freedom[i]
        rx, ry, rz = -0.5 * h * rate[c], -0.5 * h * rate[c + 1], -0.5 * h * rate[c + 2]
        half = sqrt(rx * rx + ry * ry + rz * rz)
        share = sin(half) / half if half > 1e-12 else 1.0
        rx, ry, rz, rw = share * rx, share * ry, share * rz, cos(half)
        if not loose[i]:
            v[c + 3], v[c + 4], v[c + 5] = turned(rx, ry, rz, rw, v[c + 3], v[c + 4], v[c + 5])
            continue
        for j in range(6):
            momentum[j] = 0.0
            for k in range(6):
                whole[j, k] = matrix[c + j, c + k] if k <= j else matrix[c + k, c + j]
                momentum[j] += whole[j, k] * v[c + k]
        # About the origin where it has come to.
        x, y, z = h * rate[c + 3], h * rate[c + 4], h * rate[c + 5]
        a = momentum[0] - (y * momentum[5] - z * momentum[4])
        b = momentum[1] - (z * momentum[3] - x * momentum[5])
        d = momentum[2] - (x * momentum[4] - y * momentum[3])
        v[c], v[c + 1], v[c + 2] = turned(rx, ry, rz, rw, a, b, d)
        v[c + 3], v[c + 4], v[c + 5] = turned(rx, ry, rz, rw, momentum[3], momentum[4], momentum[5])
        _divide(whole, v, c)


@kernel
def _divide(a, x, first):
    """Solve a (6, 6) y = x[first:first + 6] in place, by Cholesky."""
    for j in range(6):
        for k in range(j):
            a[j, j] -= a[j, k] * a[j, k]
        a[j, j] = sqrt(max(a[j, j], 1e-300))
        for i in range(j + 1, 6):
            for k in range(j):
                a[i, j] -= a[i, k] * a[j, k]
            a[i, j] /= a[j, j]
    for i in range(6):
        for k in range(i):
            x[first + i] -= a[i, k] * x[first + k]
        x[first + i] /= a[i, i]
    for i in range(5, -1, -1):
        for k in range(i + 1, 6):
            x[first + i] -= a[k, i] * x[first + k]
        x[first + i] /= a[i, i]
