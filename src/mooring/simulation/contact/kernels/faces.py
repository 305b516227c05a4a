"""The side of a convex shape that looks in a direction: a corner, an edge or a face.

Corners that are nearly as far out as the farthest one count as well, so that a box which stands a
little askew is held at all four corners.
"""

from __future__ import annotations

from math import cos, pi, sin, sqrt

from mooring.compiling import kernel
from mooring.kinematics.overlaps.kernels.support import CYLINDER
from mooring.tree.kernels.vectors import backward, forward

MOST_CORNERS = 32
_RIM = 8
# How far behind the farthest corner others may lie, as a share of the shape's size.
_ASKEW = 0.02
_SAME = 1e-7
"""[m]"""


@kernel
def side_towards(shapes, s, turn, place, nx, ny, nz, loose, out):
    """Fill out (MOST_CORNERS, 3) with points of the surface, in world axes; returns how many.

    Three and more go round the normal (nx, ny, nz) counter-clockwise. `loose` is scratch, as long.
    """
    lx, ly, lz = backward(turn, nx, ny, nz)
    radius = shapes.radius[s]
    near = _ASKEW * shapes.ball[s, 3]
    if shapes.kind[s] == CYLINDER:
        count = _side_of_cylinder(shapes.size[s, 0], shapes.size[s, 1], lx, ly, lz, near, out)
    else:
        count = _side_of_points(shapes, s, lx, ly, lz, near, loose)
        count = _go_round(loose, count, lx, ly, lz, out)
    for k in range(count):
        x, y, z = forward(turn, out[k, 0], out[k, 1], out[k, 2])
        out[k, 0] = place[0] + x + radius * nx
        out[k, 1] = place[1] + y + radius * ny
        out[k, 2] = place[2] + z + radius * nz
    return count


@kernel
def _side_of_points(shapes, s, lx, ly, lz, near, out):
    points = shapes.points
    first, last = shapes.first[s], shapes.last[s]
    top = -1e300
    for k in range(first, last):
        top = max(top, lx * points[k, 0] + ly * points[k, 1] + lz * points[k, 2])
    count = 0
    for k in range(first, last):
        x, y, z = points[k, 0], points[k, 1], points[k, 2]
        if lx * x + ly * y + lz * z >= top - near:
            out[count, 0], out[count, 1], out[count, 2] = x, y, z
            count += 1
            if count == MOST_CORNERS:
                break
    return count


@kernel
def _side_of_cylinder(radius, half, lx, ly, lz, near, out):
    across = sqrt(lx * lx + ly * ly)
    end = half if lz >= 0.0 else -half
    if 2.0 * radius * across <= near:
        # An end, as a polygon that turns with the shape.
        for k in range(_RIM):
            angle = 2.0 * pi * k / _RIM
            angle = angle if end > 0.0 else -angle
            out[k, 0], out[k, 1], out[k, 2] = radius * cos(angle), radius * sin(angle), end
        return _RIM
    x, y = radius * lx / across, radius * ly / across
    out[0, 0], out[0, 1], out[0, 2] = x, y, end
    if 2.0 * half * abs(lz) > near:
        return 1
    out[1, 0], out[1, 1], out[1, 2] = x, y, -end
    return 2


@kernel
def _go_round(loose, count, nx, ny, nz, out):
    """The outline of points seen along a normal, counter-clockwise (Jarvis 1973)."""
    ux, uy, uz, vx, vy, vz = plane_axes(nx, ny, nz)
    first = 0
    for k in range(1, count):
        a = ux * (loose[k, 0] - loose[first, 0]) + uy * (loose[k, 1] - loose[first, 1])
        a += uz * (loose[k, 2] - loose[first, 2])
        if a < 0.0:
            first = k
    here, size = first, 0
    while size < count:
        out[size, 0], out[size, 1], out[size, 2] = loose[here, 0], loose[here, 1], loose[here, 2]
        size += 1
        following = -1
        fa, fb = 0.0, 0.0
        for k in range(count):
            x = loose[k, 0] - loose[here, 0]
            y = loose[k, 1] - loose[here, 1]
            z = loose[k, 2] - loose[here, 2]
            a, b = ux * x + uy * y + uz * z, vx * x + vy * y + vz * z
            if a * a + b * b < _SAME * _SAME:
                continue
            side = fa * b - fb * a
            if (
                following < 0
                or side < -1e-14
                or (side < 1e-14 and a * a + b * b > fa * fa + fb * fb)
            ):
                following, fa, fb = k, a, b
        if following < 0 or following == first:
            break
        here = following
    return size


@kernel
def plane_axes(nx, ny, nz):
    """Two unit vectors across a unit vector and each other, right-handed with it."""
    if abs(nx) < 0.6:
        ux, uy, uz = 0.0, nz, -ny
    else:
        ux, uy, uz = -nz, 0.0, nx
    length = sqrt(ux * ux + uy * uy + uz * uz)
    ux, uy, uz = ux / length, uy / length, uz / length
    return ux, uy, uz, ny * uz - nz * uy, nz * ux - nx * uz, nx * uy - ny * ux
