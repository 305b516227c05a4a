"""How often a ray passes through a surface: odd inside, even outside."""

from __future__ import annotations

from mooring.compiling import entry, kernel


@entry
def crossings(triangles, points, out):
    """How often rays from points in a slanted direction pass through triangles.

    Args:
        triangles: (m, 3, 3).
        points: (n, 3).
        out: (n,) counts.
    """
    for p in range(points.shape[0]):
        out[p] = _count(triangles, points[p, 0], points[p, 1], points[p, 2])


@kernel
def _count(triangles, x, y, z):
    dx, dy, dz = 0.5773, 0.5791, 0.5756
    count = 0
    for i in range(triangles.shape[0]):
        t = triangles[i]
        ux, uy, uz = t[1, 0] - t[0, 0], t[1, 1] - t[0, 1], t[1, 2] - t[0, 2]
        vx, vy, vz = t[2, 0] - t[0, 0], t[2, 1] - t[0, 1], t[2, 2] - t[0, 2]
        px, py, pz = dy * vz - dz * vy, dz * vx - dx * vz, dx * vy - dy * vx
        det = ux * px + uy * py + uz * pz
        if det == 0.0:
            continue
        sx, sy, sz = x - t[0, 0], y - t[0, 1], z - t[0, 2]
        u = (sx * px + sy * py + sz * pz) / det
        qx, qy, qz = sy * uz - sz * uy, sz * ux - sx * uz, sx * uy - sy * ux
        v = (dx * qx + dy * qy + dz * qz) / det
        way = (vx * qx + vy * qy + vz * qz) / det
        if u >= 0.0 and v >= 0.0 and u + v <= 1.0 and way > 0.0:
            count += 1
    return count
