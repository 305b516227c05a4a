"""Convex shapes for kernels: all are points or a cylinder, made rounder by a radius.

A sphere is one point with a radius, a capsule two; a box its eight corners and a hull its vertices,
with none. Distances are measured between these cores, and the radii taken off afterwards.
"""

from __future__ import annotations

from math import sqrt

from mooring.compiling import kernel
from mooring.tree.kernels.vectors import backward, forward

POINTS, CYLINDER = 0, 1


@kernel
def farthest(shapes, s, rotation, x, y, z):
    """The point of a shape's core farthest in a world direction, less its place; world axes."""
    lx, ly, lz = backward(rotation, x, y, z)
    if shapes.kind[s] == CYLINDER:
        across = sqrt(lx * lx + ly * ly)
        r, half = shapes.size[s, 0], shapes.size[s, 1]
        px, py = (r * lx / across, r * ly / across) if across > 1e-300 else (r, 0.0)
        return forward(rotation, px, py, half if lz >= 0.0 else -half)
    first = shapes.first[s]
    best = first
    top = -1e300
    for k in range(first, shapes.last[s]):
        p = shapes.points[k]
        value = lx * p[0] + ly * p[1] + lz * p[2]
        if value > top:
            top = value
            best = k
    p = shapes.points[best]
    return forward(rotation, p[0], p[1], p[2])


@kernel
def difference(shapes, a, turn_a, b, turn_b, way, x, y, z, out):
    """The point of A - B farthest in a direction: in out[0:3], its origins in out[3:6], out[6:9].

    `way` is from the place of A to that of B; origins are measured from the place of A.
    """
    ax, ay, az = farthest(shapes, a, turn_a, x, y, z)
    bx, by, bz = farthest(shapes, b, turn_b, -x, -y, -z)
    bx, by, bz = bx + way[0], by + way[1], bz + way[2]
    out[0], out[1], out[2] = ax - bx, ay - by, az - bz
    out[3], out[4], out[5] = ax, ay, az
    out[6], out[7], out[8] = bx, by, bz
