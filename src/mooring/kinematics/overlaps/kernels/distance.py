"""How far two convex shapes are apart, or how deep they overlap.

Apart: Gilbert, Johnson and Keerthi's algorithm (1988) on the difference of the cores. Overlapping:
the difference's surface is built out towards the origin until the nearest piece of it is found
(van den Bergen, "Proximity Queries and Penetration Depth Computation on 3D Game Objects", 2001).
"""

from __future__ import annotations

from math import sqrt

import numpy as np

from mooring.compiling import kernel
from mooring.kinematics.overlaps.kernels.simplex import nearest_on_simplex
from mooring.kinematics.overlaps.kernels.support import difference
from mooring.tree.kernels.vectors import cross

_MOST_STEPS = 200
_MOST_CORNERS = 160
_AXES = (
    (1.0, 0.0, 0.0), (-1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, -1.0, 0.0), (0.0, 0.0, 1.0),
    (0.0, 0.0, -1.0),
)  # fmt: skip
_EXACT = 1e-10
"""[m], of distances"""
_DEEP = 1e-8
"""[m], of depths"""


@kernel
def signed_distance(shapes, a, turn_a, place_a, b, turn_b, place_b, work, found):
    """The distance between two shapes [m]; less than zero is how deep they overlap.

    `found` (9,) gets the nearest points on A and on B, and the unit normal from A to B. `work` is
    scratch from `new_scratch`; its last part may hold, in its last three numbers, a guess of that
    normal to begin with.
    """
    w, share, trial, corners, faces, normals, edges, way = work
    for j in range(3):
        way[j] = place_b[j] - place_a[j]
    length = _apart(shapes, a, turn_a, b, turn_b, way, w, share, trial)
    radius_a, radius_b = shapes.radius[a], shapes.radius[b]
    if length > 0.0:
        px, py, pz, qx, qy, qz = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
        for k in range(4):
            px, py, pz = px + share[k] * w[k, 3], py + share[k] * w[k, 4], pz + share[k] * w[k, 5]
            qx, qy, qz = qx + share[k] * w[k, 6], qy + share[k] * w[k, 7], qz + share[k] * w[k, 8]
        nx, ny, nz = (qx - px) / length, (qy - py) / length, (qz - pz) / length
    else:
        length, nx, ny, nz, px, py, pz = _deep(
            shapes, a, turn_a, b, turn_b, way, corners, faces, normals, edges
        )
        qx, qy, qz = px + length * nx, py + length * ny, pz + length * nz
    found[0], found[1], found[2] = (
        place_a[0] + px + radius_a * nx,
        place_a[1] + py + radius_a * ny,
        place_a[2] + pz + radius_a * nz,
    )
    found[3], found[4], found[5] = (
        place_a[0] + qx - radius_b * nx,
        place_a[1] + qy - radius_b * ny,
        place_a[2] + qz - radius_b * nz,
    )
    found[6], found[7], found[8] = nx, ny, nz
    return length - radius_a - radius_b


@kernel
def new_scratch():
    return (
        np.zeros((4, 9)),
        np.zeros(4),
        np.zeros(4),
        np.zeros((_MOST_CORNERS, 9)),
        np.zeros((4 * _MOST_CORNERS, 3), dtype=np.int64),
        np.zeros((4 * _MOST_CORNERS, 4)),
        np.zeros((4 * _MOST_CORNERS, 2), dtype=np.int64),
        np.zeros(6),
    )


@kernel
def _apart(shapes, a, turn_a, b, turn_b, way, w, share, trial):
    """The distance of the cores, and the simplex that has it; 0 where they overlap."""
    x, y, z = way[3], way[4], way[5]
    if x == 0.0 and y == 0.0 and z == 0.0:
        x, y, z = way[0], way[1], way[2]
    if x * x + y * y + z * z < 1e-24:
        x, y, z = 1.0, 0.0, 0.0
    difference(shapes, a, turn_a, b, turn_b, way, x, y, z, w[0])
    size = 1
    share[:] = 0.0
    share[0] = 1.0
    vx, vy, vz = w[0, 0], w[0, 1], w[0, 2]
    before = 1e300
    for _ in range(_MOST_STEPS):
        squared = vx * vx + vy * vy + vz * vz
        length = sqrt(squared)
        if length < _EXACT:
            return 0.0
        if length >= before:
            # Rounding has taken over: the last answer was as good as it gets.
            return length
        before = length
        difference(shapes, a, turn_a, b, turn_b, way, -vx, -vy, -vz, w[size])
        bound = (vx * w[size, 0] + vy * w[size, 1] + vz * w[size, 2]) / length
        if length - bound <= _EXACT:
            return length
        size += 1
        if nearest_on_simplex(w, size, share, trial):
            return 0.0
        kept = 0
        vx, vy, vz = 0.0, 0.0, 0.0
        for k in range(size):
            if share[k] > 0.0:
                if kept != k:
                    w[kept] = w[k]
                    share[kept] = share[k]
                    share[k] = 0.0
                vx += share[kept] * w[kept, 0]
                vy += share[kept] * w[kept, 1]
                vz += share[kept] * w[kept, 2]
                kept += 1
        size = kept
    return sqrt(vx * vx + vy * vy + vz * vz)


@kernel
def _deep(shapes, a, turn_a, b, turn_b, way, corners, faces, normals, edges):
    """Minus the depth of the cores, the unit normal from A to B, and a point on A's surface."""
    count = _first_corners(shapes, a, turn_a, b, turn_b, way, corners)
    if count < 4:
        # The difference is flat: the cores touch, and anything across it parts them.
        nx, ny, nz = _across(corners, count)
        return 0.0, nx, ny, nz, corners[0, 3], corners[0, 4], corners[0, 5]
    faces[0, 0], faces[0, 1], faces[0, 2] = 0, 1, 2
    faces[1, 0], faces[1, 1], faces[1, 2] = 0, 3, 1
    faces[2, 0], faces[2, 1], faces[2, 2] = 0, 2, 3
    faces[3, 0], faces[3, 1], faces[3, 2] = 1, 3, 2
    sides = 4
    for f in range(4):
        _plane(corners, faces[f], normals[f])
    best = 0
    while True:
        best = 0
        for f in range(sides):
            if max(0.0, normals[f, 3]) < max(0.0, normals[best, 3]):
                best = f
        nx, ny, nz, offset = (
            normals[best, 0],
            normals[best, 1],
            normals[best, 2],
            normals[best, 3],
        )
        if count == _MOST_CORNERS:
            break
        difference(shapes, a, turn_a, b, turn_b, way, nx, ny, nz, corners[count])
        new = corners[count]
        if nx * new[0] + ny * new[1] + nz * new[2] - max(0.0, offset) <= _DEEP:
            break
        # Take away what the new corner sees, and close the hole with faces to it.
        rim = 0
        f = 0
        while f < sides:
            n = normals[f]
            if n[0] * new[0] + n[1] * new[1] + n[2] * new[2] - n[3] > 1e-12:
                for e in range(3):
                    rim = _edge(edges, rim, faces[f, e], faces[f, (e + 1) % 3])
                sides -= 1
                faces[f] = faces[sides]
                normals[f] = normals[sides]
            else:
                f += 1
        if rim == 0 or sides + rim > faces.shape[0]:
            break
        for e in range(rim):
            faces[sides, 0], faces[sides, 1], faces[sides, 2] = edges[e, 0], edges[e, 1], count
            _plane(corners, faces[sides], normals[sides])
            sides += 1
        count += 1
    offset = max(0.0, offset)
    px, py, pz = _point_on_a(corners, faces[best], nx, ny, nz, offset)
    return -offset, nx, ny, nz, px, py, pz


@kernel
def _first_corners(shapes, a, turn_a, b, turn_b, way, corners):
    """Four corners of the difference that span a body, as many as there are; turned outwards."""
    difference(shapes, a, turn_a, b, turn_b, way, 1.0, 0.0, 0.0, corners[0])
    difference(shapes, a, turn_a, b, turn_b, way, -1.0, 0.0, 0.0, corners[1])
    p = corners[0]
    for k in range(2, 6):
        if _gap(p, corners[1]) > 1e-9:
            break
        x, y, z = _AXES[k]
        difference(shapes, a, turn_a, b, turn_b, way, x, y, z, corners[1])
    if _gap(p, corners[1]) <= 1e-9:
        return 1
    ux, uy, uz = corners[1, 0] - p[0], corners[1, 1] - p[1], corners[1, 2] - p[2]
    best = 1e-9
    found = False
    probe = corners[4]
    for k in range(6):
        x, y, z = _AXES[k]
        # Across the first edge.
        share = (x * ux + y * uy + z * uz) / (ux * ux + uy * uy + uz * uz)
        x, y, z = x - share * ux, y - share * uy, z - share * uz
        if x * x + y * y + z * z < 1e-12:
            continue
        difference(shapes, a, turn_a, b, turn_b, way, x, y, z, probe)
        cx, cy, cz = cross(ux, uy, uz, probe[0] - p[0], probe[1] - p[1], probe[2] - p[2])
        height = sqrt(cx * cx + cy * cy + cz * cz) / sqrt(ux * ux + uy * uy + uz * uz)
        if height > best:
            best = height
            corners[2] = probe
            found = True
    if not found:
        return 2
    vx, vy, vz = corners[2, 0] - p[0], corners[2, 1] - p[1], corners[2, 2] - p[2]
    nx, ny, nz = cross(ux, uy, uz, vx, vy, vz)
    length = sqrt(nx * nx + ny * ny + nz * nz)
    nx, ny, nz = nx / length, ny / length, nz / length
    best = 1e-9
    found, above = False, False
    for side in (1.0, -1.0):
        difference(shapes, a, turn_a, b, turn_b, way, side * nx, side * ny, side * nz, probe)
        height = nx * (probe[0] - p[0]) + ny * (probe[1] - p[1]) + nz * (probe[2] - p[2])
        if abs(height) > best:
            best = abs(height)
            corners[3] = probe
            found = True
            above = height > 0.0
    if not found:
        return 3
    if above:
        for j in range(9):
            corners[1, j], corners[2, j] = corners[2, j], corners[1, j]
    return 4


@kernel
def _gap(p, q):
    return abs(p[0] - q[0]) + abs(p[1] - q[1]) + abs(p[2] - q[2])


@kernel
def _across(corners, count):
    """A direction across the first corners, which span no body."""
    if count == 3:
        p, q, r = corners[0], corners[1], corners[2]
        x, y, z = cross(
            q[0] - p[0], q[1] - p[1], q[2] - p[2], r[0] - p[0], r[1] - p[1], r[2] - p[2]
        )
    elif count == 2:
        p, q = corners[0], corners[1]
        dx, dy, dz = q[0] - p[0], q[1] - p[1], q[2] - p[2]
        if abs(dx) < abs(dy):
            x, y, z = cross(dx, dy, dz, 1.0, 0.0, 0.0)
        else:
            x, y, z = cross(dx, dy, dz, 0.0, 1.0, 0.0)
    else:
        x, y, z = 0.0, 0.0, 1.0
    length = sqrt(x * x + y * y + z * z)
    return x / length, y / length, z / length


@kernel
def _plane(corners, face, out):
    """A face's outward unit normal and its distance from the origin."""
    p, q, r = corners[face[0]], corners[face[1]], corners[face[2]]
    nx, ny, nz = cross(q[0] - p[0], q[1] - p[1], q[2] - p[2], r[0] - p[0], r[1] - p[1], r[2] - p[2])
    length = sqrt(nx * nx + ny * ny + nz * nz)
    if length < 1e-18:
        # No face at all: never the nearest, and seen by nothing.
        out[0], out[1], out[2], out[3] = 0.0, 0.0, 0.0, 1e300
        return
    out[0], out[1], out[2] = nx / length, ny / length, nz / length
    out[3] = out[0] * p[0] + out[1] * p[1] + out[2] * p[2]


@kernel
def _edge(edges, count, start, end):
    """Add an edge to the rim, or take its opposite away: inner edges come twice."""
    for e in range(count):
        if edges[e, 0] == end and edges[e, 1] == start:
            edges[e, 0], edges[e, 1] = edges[count - 1, 0], edges[count - 1, 1]
            return count - 1
    edges[count, 0], edges[count, 1] = start, end
    return count + 1


@kernel
def _point_on_a(corners, face, nx, ny, nz, offset):
    """The point on A's core that the nearest point of a face of the difference stands for."""
    p, q, r = corners[face[0]], corners[face[1]], corners[face[2]]
    ux, uy, uz = q[0] - p[0], q[1] - p[1], q[2] - p[2]
    vx, vy, vz = r[0] - p[0], r[1] - p[1], r[2] - p[2]
    tx, ty, tz = offset * nx - p[0], offset * ny - p[1], offset * nz - p[2]
    uu = ux * ux + uy * uy + uz * uz
    uv = ux * vx + uy * vy + uz * vz
    vv = vx * vx + vy * vy + vz * vz
    tu = tx * ux + ty * uy + tz * uz
    tv = tx * vx + ty * vy + tz * vz
    area = uu * vv - uv * uv
    j, k = (vv * tu - uv * tv) / area, (uu * tv - uv * tu) / area
    i = 1.0 - j - k
    return (
        i * p[3] + j * q[3] + k * r[3],
        i * p[4] + j * q[4] + k * r[4],
        i * p[5] + j * q[5] + k * r[5],
    )
