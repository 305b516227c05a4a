"""Distances between triangles (Ericson, Real-Time Collision Detection, 2005, chapter 5)."""

from __future__ import annotations

from math import inf, sqrt

from mooring.compiling import entry, kernel


@entry
def closest(first, second, enough):
    """The smallest distance between triangles (m, 3, 3) and triangles (k, 3, 3); 0 if they cross.

    The search ends when a distance of `enough` or less is found, and skips triangles whose bounds
    are farther apart than the smallest distance so far.
    """
    best = inf
    for i in range(first.shape[0]):
        for j in range(second.shape[0]):
            if _bounds_gap(first[i], second[j]) >= best:
                continue
            best = min(best, _triangle_distance(first[i], second[j]))
            if best <= enough:
                return best
    return best


@entry
def crossings(triangles, x, y, z):
    """How often a ray from a point in a slanted direction passes through triangles (m, 3, 3)."""
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


@kernel
def _bounds_gap(a, b):
    """A lower bound of the distance: that between the bounding boxes."""
    total = 0.0
    for k in range(3):
        low_a, high_a = min(a[0, k], a[1, k], a[2, k]), max(a[0, k], a[1, k], a[2, k])
        low_b, high_b = min(b[0, k], b[1, k], b[2, k]), max(b[0, k], b[1, k], b[2, k])
        gap = max(low_a - high_b, low_b - high_a, 0.0)
        total += gap * gap
    return sqrt(total)


@kernel
def _triangle_distance(a, b):
    best = inf
    for i in range(3):
        p, q = a[i], a[(i + 1) % 3]
        if _pierces(p, q, b):
            return 0.0
        r, s = b[i], b[(i + 1) % 3]
        if _pierces(r, s, a):
            return 0.0
        best = min(best, _point_to_triangle(a[i], b), _point_to_triangle(b[i], a))
        for j in range(3):
            best = min(best, _segment_distance(p, q, b[j], b[(j + 1) % 3]))
    return best


@kernel
def _dot(a, b):
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@kernel
def _minus(a, b):
    return (a[0] - b[0], a[1] - b[1], a[2] - b[2])


@kernel
def _cross(a, b):
    return (
        a[1] * b[2] - a[2] * b[1],
        a[2] * b[0] - a[0] * b[2],
        a[0] * b[1] - a[1] * b[0],
    )


@kernel
def _pierces(p, q, t):
    """Whether a segment passes through a triangle."""
    u, v, d = _minus(t[1], t[0]), _minus(t[2], t[0]), _minus(q, p)
    h = _cross(d, v)
    det = _dot(u, h)
    if det == 0.0:
        return False
    s = _minus(p, t[0])
    a = _dot(s, h) / det
    if a < 0.0 or a > 1.0:
        return False
    w = _cross(s, u)
    b = _dot(d, w) / det
    if b < 0.0 or a + b > 1.0:
        return False
    way = _dot(v, w) / det
    return 0.0 <= way <= 1.0


@kernel
def _point_to_triangle(p, t):
    """By the region of the plane that the point is over; edges are left to the segments."""
    u, v = _minus(t[1], t[0]), _minus(t[2], t[0])
    normal = _cross(u, v)
    squared = _dot(normal, normal)
    if squared == 0.0:
        return inf
    s = _minus(p, t[0])
    b = _dot(_cross(s, v), normal) / squared
    c = _dot(_cross(u, s), normal) / squared
    if b >= 0.0 and c >= 0.0 and b + c <= 1.0:
        return abs(_dot(s, normal)) / sqrt(squared)
    return inf


@kernel
def _segment_distance(p, q, r, s):
    d1, d2, w = _minus(q, p), _minus(s, r), _minus(p, r)
    a, e, f = _dot(d1, d1), _dot(d2, d2), _dot(d2, w)
    if a <= 0.0 and e <= 0.0:
        return sqrt(_dot(w, w))
    if a <= 0.0:
        x, y = 0.0, min(1.0, max(0.0, f / e))
    else:
        c = _dot(d1, w)
        if e <= 0.0:
            x, y = min(1.0, max(0.0, -c / a)), 0.0
        else:
            b = _dot(d1, d2)
            denominator = a * e - b * b
            x = 0.0
            if denominator > 0.0:
                x = min(1.0, max(0.0, (b * f - c * e) / denominator))
            y = (b * x + f) / e
            if y < 0.0:
                x, y = min(1.0, max(0.0, -c / a)), 0.0
            elif y > 1.0:
                x, y = min(1.0, max(0.0, (b - c) / a)), 1.0
    gx = w[0] + d1[0] * x - d2[0] * y
    gy = w[1] + d1[1] * x - d2[1] * y
    gz = w[2] + d1[2] * x - d2[2] * y
    return sqrt(gx * gx + gy * gy + gz * gz)
