"""Smooth normals that stop at creases."""

from __future__ import annotations

import numpy as np

from mooring.compiling import entry


@entry
def corner_normals(vertices, faces, cosine, normals):
    """A normal for each corner of each triangle, (m, 3, 3).

    The area-weighted mean over the triangles around the vertex whose own normals are within the
    crease angle of this triangle's.
    """
    count = faces.shape[0]
    flat = np.empty((count, 3))
    area = np.empty(count)
    for f in range(count):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        ux, uy, uz = (
            vertices[b, 0] - vertices[a, 0],
            vertices[b, 1] - vertices[a, 1],
            vertices[b, 2] - vertices[a, 2],
        )
        vx, vy, vz = (
            vertices[c, 0] - vertices[a, 0],
            vertices[c, 1] - vertices[a, 1],
            vertices[c, 2] - vertices[a, 2],
        )
        x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        length = np.sqrt(x * x + y * y + z * z)
        area[f] = length
        if length > 0.0:
            flat[f, 0], flat[f, 1], flat[f, 2] = x / length, y / length, z / length
        else:
            flat[f, 0], flat[f, 1], flat[f, 2] = 0.0, 0.0, 1.0
    # Which triangles meet at each vertex: counts, then starts, then the triangles themselves.
    start = np.zeros(vertices.shape[0] + 1, dtype=np.int64)
    for f in range(count):
        for k in range(3):
            start[faces[f, k] + 1] += 1
    for i in range(vertices.shape[0]):
        start[i + 1] += start[i]
    fill = start[:-1].copy()
    around = np.empty(3 * count, dtype=np.int64)
    for f in range(count):
        for k in range(3):
            around[fill[faces[f, k]]] = f
            fill[faces[f, k]] += 1
    for f in range(count):
        for k in range(3):
            x = y = z = 0.0
            i = faces[f, k]
            for s in range(start[i], start[i + 1]):
                g = around[s]
                dot = flat[f, 0] * flat[g, 0] + flat[f, 1] * flat[g, 1] + flat[f, 2] * flat[g, 2]
                if dot >= cosine:
                    x += area[g] * flat[g, 0]
                    y += area[g] * flat[g, 1]
                    z += area[g] * flat[g, 2]
            length = np.sqrt(x * x + y * y + z * z)
            if length > 0.0:
                normals[f, k, 0], normals[f, k, 1], normals[f, k, 2] = (
                    x / length,
                    y / length,
                    z / length,
                )
            else:
                normals[f, k] = flat[f]
