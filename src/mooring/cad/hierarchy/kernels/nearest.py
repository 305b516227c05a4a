"""Distances from points to triangles by a tree of boxes."""

from __future__ import annotations

from math import sqrt

import numpy as np

from mooring.compiling import entry, kernel


@entry
def nearest(points, triangles, low, high, below, first, count, out, which):
    """The distance of each point (n, 3) to the nearest of some triangles (m, 3, 3), leaf by leaf.

    Args:
        points: (n, 3).
        triangles, low, high, below, first, count: as `build` made them.
        out: (n,) distances.
        which: (n,) out, the nearest triangles.
    """
    stack = np.empty(128, dtype=np.int64)
    for p in range(points.shape[0]):
        x, y, z = points[p, 0], points[p, 1], points[p, 2]
        best = np.inf
        stack[0], waiting = 0, 1
        while waiting > 0:
            waiting -= 1
            box = stack[waiting]
            if _to_box(x, y, z, low, high, box) >= best:
                continue
            child = below[box]
            if child < 0:
                for t in range(first[box], first[box] + count[box]):
                    distance = _to_triangle(x, y, z, triangles, t)
                    if distance < best:
                        best, which[p] = distance, t
                continue
            # The nearer child is looked at first: it stands last on the stack.
            nearer = child
            if _to_box(x, y, z, low, high, child + 1) < _to_box(x, y, z, low, high, child):
                nearer = child + 1
            stack[waiting], stack[waiting + 1] = 2 * child + 1 - nearer, nearer
            waiting += 2
        out[p] = sqrt(best)


@kernel
def _to_box(x, y, z, low, high, box):
    """Squared distance to a box; 0 inside."""
    dx = max(low[box, 0] - x, x - high[box, 0], 0.0)
    dy = max(low[box, 1] - y, y - high[box, 1], 0.0)
    dz = max(low[box, 2] - z, z - high[box, 2], 0.0)
    return dx * dx + dy * dy + dz * dz


@kernel
def _to_triangle(x, y, z, triangles, t):
    """Squared distance to a triangle (Ericson, Real-Time Collision Detection, 2005, 5.1.5)."""
    ax, ay, az = triangles[t, 0, 0], triangles[t, 0, 1], triangles[t, 0, 2]
    ux, uy, uz = triangles[t, 1, 0] - ax, triangles[t, 1, 1] - ay, triangles[t, 1, 2] - az
    vx, vy, vz = triangles[t, 2, 0] - ax, triangles[t, 2, 1] - ay, triangles[t, 2, 2] - az
    px, py, pz = x - ax, y - ay, z - az
    d1, d2 = ux * px + uy * py + uz * pz, vx * px + vy * py + vz * pz
    uu, uv, vv = (
        ux * ux + uy * uy + uz * uz,
        ux * vx + uy * vy + uz * vz,
        vx * vx + vy * vy + vz * vz,
    )
    if d1 <= 0.0 and d2 <= 0.0:
        s, r = 0.0, 0.0
    else:
        d3, d4, d5, d6 = d1 - uu, d2 - uv, d1 - uv, d2 - vv
        va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
        if d3 >= 0.0 and d4 <= d3:
            s, r = 1.0, 0.0
        elif vc <= 0.0 and d1 >= 0.0 and d3 <= 0.0:
            s, r = (d1 / uu if uu > 0.0 else 0.0), 0.0
        elif d6 >= 0.0 and d5 <= d6:
            s, r = 0.0, 1.0
        elif vb <= 0.0 and d2 >= 0.0 and d6 <= 0.0:
            s, r = 0.0, (d2 / vv if vv > 0.0 else 0.0)
        elif va <= 0.0 and d4 - d3 >= 0.0 and d5 - d6 >= 0.0:
            r = (d4 - d3) / ((d4 - d3) + (d5 - d6)) if (d4 - d3) + (d5 - d6) > 0.0 else 0.0
            s = 1.0 - r
        else:
            total = va + vb + vc
            s, r = (vb / total, vc / total) if total != 0.0 else (0.0, 0.0)
    gx, gy, gz = px - s * ux - r * vx, py - s * uy - r * vy, pz - s * uz - r * vz
    return gx * gx + gy * gy + gz * gz
