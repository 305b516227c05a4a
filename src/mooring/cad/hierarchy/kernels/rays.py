"""Rays against triangles by a tree of boxes."""

from __future__ import annotations

import numpy as np

from mooring.compiling import entry, kernel


@entry
def first_hits(origins, directions, far, triangles, low, high, below, first, count, out):
    """How far each ray goes before it meets one of some triangles (m, 3, 3), leaf by leaf.

    Args:
        origins, directions: (n, 3).
        far: rays end here, in lengths of their directions.
        triangles, low, high, below, first, count: as `build` made them.
        out: (n,) in lengths of the directions; infinite for a ray that meets nothing.
    """
    stack = np.empty(128, dtype=np.int64)
    for ray in range(origins.shape[0]):
        ox, oy, oz = origins[ray, 0], origins[ray, 1], origins[ray, 2]
        dx, dy, dz = directions[ray, 0], directions[ray, 1], directions[ray, 2]
        best = far
        met = False
        stack[0], waiting = 0, 1
        while waiting > 0:
            waiting -= 1
            box = stack[waiting]
            if not _meets(ox, oy, oz, dx, dy, dz, low, high, box, best):
                continue
            child = below[box]
            if child >= 0:
                stack[waiting], stack[waiting + 1] = child, child + 1
                waiting += 2
                continue
            for t in range(first[box], first[box] + count[box]):
                way = _to_triangle(ox, oy, oz, dx, dy, dz, triangles, t)
                if 0.0 <= way <= best:
                    best, met = way, True
        out[ray] = best if met else np.inf


@kernel
def _meets(ox, oy, oz, dx, dy, dz, low, high, box, far):
    """Whether a ray meets a box before `far` (slabs)."""
    enter, leave = 0.0, far
    for k in range(3):
        o, d = (ox, dx) if k == 0 else ((oy, dy) if k == 1 else (oz, dz))
        if d == 0.0:
            if o < low[box, k] or o > high[box, k]:
                return False
            continue
        near, past = (low[box, k] - o) / d, (high[box, k] - o) / d
        if near > past:
            near, past = past, near
        enter, leave = max(enter, near), min(leave, past)
    return enter <= leave


@kernel
def _to_triangle(ox, oy, oz, dx, dy, dz, triangles, t):
    """The way along a ray to a triangle; negative when it misses.

    Moeller, Trumbore, "Fast, minimum storage ray-triangle intersection", 1997.
    """
    ax, ay, az = triangles[t, 0, 0], triangles[t, 0, 1], triangles[t, 0, 2]
    ux, uy, uz = triangles[t, 1, 0] - ax, triangles[t, 1, 1] - ay, triangles[t, 1, 2] - az
    vx, vy, vz = triangles[t, 2, 0] - ax, triangles[t, 2, 1] - ay, triangles[t, 2, 2] - az
    px, py, pz = dy * vz - dz * vy, dz * vx - dx * vz, dx * vy - dy * vx
    det = ux * px + uy * py + uz * pz
    if det == 0.0:
        return -1.0
    sx, sy, sz = ox - ax, oy - ay, oz - az
    u = (sx * px + sy * py + sz * pz) / det
    qx, qy, qz = sy * uz - sz * uy, sz * ux - sx * uz, sx * uy - sy * ux
    v = (dx * qx + dy * qy + dz * qz) / det
    if u < 0.0 or v < 0.0 or u + v > 1.0:
        return -1.0
    return (vx * qx + vy * qy + vz * qz) / det
