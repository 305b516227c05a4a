"""Distances between triangles (Ericson, Real-Time Collision Detection, 2005, chapter 5)."""

from __future__ import annotations

from math import inf, sqrt

import numpy as np

from mooring.compiling import entry, kernel


@entry
def closest(some, enough, triangles, low, high, below, first, count):
    """The smallest distance of triangles (k, 3, 3) to others; 0 if they cross.

    The search ends when a distance of `enough` or less is found, and skips boxes that are farther
    away than the smallest distance so far.

    Args:
        some: (k, 3, 3).
        enough: see above.
        triangles, low, high, below, first, count: the others, as `hierarchy` keeps them.
    """
    best = inf
    stack = np.empty(128, dtype=np.int64)
    for i in range(some.shape[0]):
        stack[0], waiting = 0, 1
        while waiting > 0:
            waiting -= 1
            box = stack[waiting]
            if _gap_to_box(some[i], low[box], high[box]) >= best:
                continue
            child = below[box]
            if child >= 0:
                stack[waiting], stack[waiting + 1] = child, child + 1
                waiting += 2
                continue
            for j in range(first[box], first[box] + count[box]):
                if _bounds_gap(some[i], triangles[j]) < best:
                    best = min(best, _triangle_distance(some[i], triangles[j]))
                    if best <= enough:
                        return best
    return best


@kernel
def _gap_to_box(a, low, high):
    """A lower bound of the distance of a triangle to what is in a box."""
    total = 0.0
    for k in range(3):
        low_a, high_a = min(a[0, k], a[1, k], a[2, k]), max(a[0, k], a[1, k], a[2, k])
        gap = max(low_a - high[k], low[k] - high_a, 0.0)
        total += gap * gap
    return sqrt(total)


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
