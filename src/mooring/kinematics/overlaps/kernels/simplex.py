"""The point of a simplex nearest to the origin.

By the regions of its corners, edges and faces (Ericson, Real-Time Collision Detection, 2005,
section 5.1).
"""

from __future__ import annotations

from mooring.compiling import kernel
from mooring.tree.kernels.vectors import cross

_FLAT = 1e-20
"""Square of the sine of an angle that is none."""


@kernel
def nearest_on_edge(p, q, share):
    """Shares of the corners p and q, in share[0:2]."""
    dx, dy, dz = q[0] - p[0], q[1] - p[1], q[2] - p[2]
    length = dx * dx + dy * dy + dz * dz
    t = -(p[0] * dx + p[1] * dy + p[2] * dz) / length if length > 0.0 else 0.0
    t = min(1.0, max(0.0, t))
    share[0], share[1] = 1.0 - t, t


@kernel
def nearest_on_triangle(p, q, r, share):
    """Shares of the corners p, q and r, in share[0:3]."""
    ux, uy, uz = q[0] - p[0], q[1] - p[1], q[2] - p[2]
    vx, vy, vz = r[0] - p[0], r[1] - p[1], r[2] - p[2]
    d1 = -(ux * p[0] + uy * p[1] + uz * p[2])
    d2 = -(vx * p[0] + vy * p[1] + vz * p[2])
    share[0], share[1], share[2] = 1.0, 0.0, 0.0
    if d1 <= 0.0 and d2 <= 0.0:
        return
    d3 = -(ux * q[0] + uy * q[1] + uz * q[2])
    d4 = -(vx * q[0] + vy * q[1] + vz * q[2])
    if d3 >= 0.0 and d4 <= d3:
        share[0], share[1] = 0.0, 1.0
        return
    d5 = -(ux * r[0] + uy * r[1] + uz * r[2])
    d6 = -(vx * r[0] + vy * r[1] + vz * r[2])
    if d6 >= 0.0 and d5 <= d6:
        share[0], share[2] = 0.0, 1.0
        return
    c = d1 * d4 - d3 * d2
    if c <= 0.0 and d1 >= 0.0 and d3 <= 0.0:
        t = d1 / (d1 - d3) if d1 > d3 else 0.0
        share[0], share[1] = 1.0 - t, t
        return
    b = d5 * d2 - d1 * d6
    if b <= 0.0 and d2 >= 0.0 and d6 <= 0.0:
        t = d2 / (d2 - d6) if d2 > d6 else 0.0
        share[0], share[2] = 1.0 - t, t
        return
    a = d3 * d6 - d5 * d4
    if a <= 0.0 and d4 - d3 >= 0.0 and d5 - d6 >= 0.0:
        whole = (d4 - d3) + (d5 - d6)
        t = (d4 - d3) / whole if whole > 0.0 else 0.0
        share[0], share[1], share[2] = 0.0, 1.0 - t, t
        return
    total = a + b + c
    share[0], share[1], share[2] = a / total, b / total, c / total


@kernel
def nearest_on_simplex(w, size, share, trial):
    """Shares (4,) of the corners w (4, 9) of the point nearest to the origin; trial is scratch.

    Returns whether the origin is inside a simplex of four corners.
    """
    share[:] = 0.0
    if size == 1:
        share[0] = 1.0
        return False
    if size == 2:
        nearest_on_edge(w[0], w[1], share)
        return False
    if size == 3:
        nearest_on_triangle(w[0], w[1], w[2], share)
        return False
    inside = True
    best = 1e300
    faces = ((0, 1, 2, 3), (0, 1, 3, 2), (0, 2, 3, 1), (1, 2, 3, 0))
    for f in range(4):
        i, j, k, opposite = faces[f]
        ux, uy, uz = w[j, 0] - w[i, 0], w[j, 1] - w[i, 1], w[j, 2] - w[i, 2]
        vx, vy, vz = w[k, 0] - w[i, 0], w[k, 1] - w[i, 1], w[k, 2] - w[i, 2]
        nx, ny, nz = cross(ux, uy, uz, vx, vy, vz)
        here = -(nx * w[i, 0] + ny * w[i, 1] + nz * w[i, 2])
        ox, oy, oz = w[opposite, 0] - w[i, 0], w[opposite, 1] - w[i, 1], w[opposite, 2] - w[i, 2]
        there = nx * ox + ny * oy + nz * oz
        flat = _FLAT * (nx * nx + ny * ny + nz * nz) * (ox * ox + oy * oy + oz * oz)
        if here * there > 0.0 and there * there > flat:
            continue
        # The origin is beyond this face, or the four corners are flat and no side can be told.
        inside = False
        nearest_on_triangle(w[i], w[j], w[k], trial)
        px = trial[0] * w[i, 0] + trial[1] * w[j, 0] + trial[2] * w[k, 0]
        py = trial[0] * w[i, 1] + trial[1] * w[j, 1] + trial[2] * w[k, 1]
        pz = trial[0] * w[i, 2] + trial[1] * w[j, 2] + trial[2] * w[k, 2]
        length = px * px + py * py + pz * pz
        if length < best:
            best = length
            share[:] = 0.0
            share[i], share[j], share[k] = trial[0], trial[1], trial[2]
    return inside
