"""Where two surfaces lie flat against each other."""

from __future__ import annotations

from math import sqrt

import numpy as np

from mooring.compiling import entry, kernel


@entry
def facing_triangles(some, tolerance, cosine, marked, triangles, low, high, below, first, count):
    """Mark the triangles of (k, 3, 3) that lie against one of others.

    Against means: the normals are opposite within an angle, the planes are no farther apart than
    the tolerance, and seen along the normal the triangles overlap.

    Args:
        some: (k, 3, 3).
        tolerance, cosine: see above; of the angle.
        marked: (k,) out.
        triangles, low, high, below, first, count: the others, as `hierarchy` keeps them.
    """
    stack = np.empty(128, dtype=np.int64)
    for i in range(some.shape[0]):
        nx, ny, nz, size = _normal(some[i])
        if size == 0.0:
            continue
        stack[0], waiting = 0, 1
        while waiting > 0 and not marked[i]:
            waiting -= 1
            box = stack[waiting]
            if not _near_box(some[i], low[box], high[box], tolerance):
                continue
            child = below[box]
            if child >= 0:
                stack[waiting], stack[waiting + 1] = child, child + 1
                waiting += 2
                continue
            for j in range(first[box], first[box] + count[box]):
                if _faces(some[i], triangles[j], nx, ny, nz, tolerance, cosine):
                    marked[i] = True
                    break


@kernel
def _near_box(a, low, high, tolerance):
    for k in range(3):
        if min(a[0, k], a[1, k], a[2, k]) > high[k] + tolerance:
            return False
        if max(a[0, k], a[1, k], a[2, k]) < low[k] - tolerance:
            return False
    return True


@kernel
def _faces(a, b, nx, ny, nz, tolerance, cosine):
    mx, my, mz, other = _normal(b)
    if other == 0.0 or nx * mx + ny * my + nz * mz > -cosine:
        return False
    nearest = 1e300
    for k in range(3):
        gap = nx * (b[k, 0] - a[0, 0]) + ny * (b[k, 1] - a[0, 1]) + nz * (b[k, 2] - a[0, 2])
        nearest = min(nearest, abs(gap))
    return nearest <= tolerance and _overlap(a, b, nx, ny, nz)


@kernel
def _normal(t):
    ux, uy, uz = t[1, 0] - t[0, 0], t[1, 1] - t[0, 1], t[1, 2] - t[0, 2]
    vx, vy, vz = t[2, 0] - t[0, 0], t[2, 1] - t[0, 1], t[2, 2] - t[0, 2]
    x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    size = sqrt(x * x + y * y + z * z)
    if size == 0.0:
        return 0.0, 0.0, 0.0, 0.0
    return x / size, y / size, z / size, size


@kernel
def _overlap(a, b, nx, ny, nz):
    """Whether two triangles overlap by more than an edge, seen along a normal."""
    return _not_apart(a, b, nx, ny, nz) and _not_apart(b, a, nx, ny, nz)


@kernel
def _not_apart(a, b, nx, ny, nz):
    for k in range(3):
        p, q = a[k], a[(k + 1) % 3]
        ex, ey, ez = q[0] - p[0], q[1] - p[1], q[2] - p[2]
        # A direction in the plane, across the edge.
        sx, sy, sz = ny * ez - nz * ey, nz * ex - nx * ez, nx * ey - ny * ex
        length = sqrt(sx * sx + sy * sy + sz * sz)
        if length == 0.0:
            return False
        low_a, high_a, low_b, high_b = 1e300, -1e300, 1e300, -1e300
        for c in range(3):
            at = (sx * a[c, 0] + sy * a[c, 1] + sz * a[c, 2]) / length
            low_a, high_a = min(low_a, at), max(high_a, at)
            at = (sx * b[c, 0] + sy * b[c, 1] + sz * b[c, 2]) / length
            low_b, high_b = min(low_b, at), max(high_b, at)
        margin = 1e-3 * min(high_a - low_a, high_b - low_b)
        if high_a - margin <= low_b or high_b - margin <= low_a:
            return False
    return True
