"""The distance between balls and capsules, by formula."""

from __future__ import annotations

from math import sqrt

from mooring.compiling import kernel
from mooring.tree.kernels.vectors import forward

CROSSING = -1e300
"""Said where two axes meet, and no normal follows from them."""


@kernel
def segment_distance(shapes, a, turn_a, place_a, b, turn_b, place_b, found):
    """As `signed_distance`, of shapes with one point or two (Ericson 2005, section 5.1.9)."""
    px, py, pz, ux, uy, uz = _axis(shapes, a, turn_a, place_a)
    qx, qy, qz, vx, vy, vz = _axis(shapes, b, turn_b, place_b)
    wx, wy, wz = px - qx, py - qy, pz - qz
    uu, vv = ux * ux + uy * uy + uz * uz, vx * vx + vy * vy + vz * vz
    uv = ux * vx + uy * vy + uz * vz
    uw, vw = ux * wx + uy * wy + uz * wz, vx * wx + vy * wy + vz * wz
    s, t = 0.0, 0.0
    if uu > 1e-24:
        if vv > 1e-24:
            area = uu * vv - uv * uv
            # Along parallel axes every point is as near; take the middle of one.
            s = min(1.0, max(0.0, (uv * vw - uw * vv) / area)) if area > 1e-12 * uu * vv else 0.5
            t = (uv * s + vw) / vv
            if t < 0.0 or t > 1.0:
                t = min(1.0, max(0.0, t))
                s = min(1.0, max(0.0, (uv * t - uw) / uu))
        else:
            s = min(1.0, max(0.0, -uw / uu))
    elif vv > 1e-24:
        t = min(1.0, max(0.0, vw / vv))
    px, py, pz = px + s * ux, py + s * uy, pz + s * uz
    qx, qy, qz = qx + t * vx, qy + t * vy, qz + t * vz
    nx, ny, nz = qx - px, qy - py, qz - pz
    length = sqrt(nx * nx + ny * ny + nz * nz)
    if length < 1e-9:
        return CROSSING
    nx, ny, nz = nx / length, ny / length, nz / length
    ra, rb = shapes.radius[a], shapes.radius[b]
    found[0], found[1], found[2] = px + ra * nx, py + ra * ny, pz + ra * nz
    found[3], found[4], found[5] = qx - rb * nx, qy - rb * ny, qz - rb * nz
    found[6], found[7], found[8] = nx, ny, nz
    return length - ra - rb


@kernel
def _axis(shapes, s, turn, place):
    """A point, and the way to the other one."""
    first = shapes.first[s]
    points = shapes.points
    ax, ay, az = forward(turn, points[first, 0], points[first, 1], points[first, 2])
    ux, uy, uz = 0.0, 0.0, 0.0
    if shapes.last[s] - first == 2:
        ux, uy, uz = forward(
            turn,
            points[first + 1, 0] - points[first, 0],
            points[first + 1, 1] - points[first, 1],
            points[first + 1, 2] - points[first, 2],
        )
    return place[0] + ax, place[1] + ay, place[2] + az, ux, uy, uz
