"""What a plane cuts out of a mesh: closed loops, with their areas."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from mooring.cad.mesh import Mesh
from mooring.geometry import Array


@dataclass(frozen=True, eq=False)
class Loop:
    """A closed line of a section.

    Attributes:
        area: that it encloses [m^2].
        starts, ends: of its straight pieces, in no order, (n, 3) [m].
    """

    area: float
    starts: Array
    ends: Array


def loops_of(mesh: Mesh, through: Array, normal: Array) -> list[Loop]:
    """The loops in which a plane cuts a closed mesh.

    Args:
        mesh: closed, its triangles outwards.
        through: a point of the plane, (3,) [m].
        normal: its unit normal, (3,).
    """
    height = (mesh.vertices - through) @ normal
    # No corner lies in the plane, so that each triangle has two ends of the line or none.
    above = np.where(np.abs(height) < 1e-12, 1e-12, height) > 0
    height = np.where(np.abs(height) < 1e-12, 1e-12, height)
    corners = above[mesh.faces]
    count = corners.sum(axis=1)
    crossed = (count > 0) & (count < 3)
    faces, corners = mesh.faces[crossed], corners[crossed]
    if not len(faces):
        return []
    # The corner that is alone on its side comes first.
    alone = np.where(corners.sum(axis=1) == 1, corners.argmax(axis=1), (~corners).argmax(axis=1))
    turn = (alone[:, None] + np.arange(3)) % 3
    a, b, c = np.take_along_axis(faces, turn, axis=1).T
    up = above[a]
    first, second = _cut(mesh, height, a, b), _cut(mesh, height, a, c)
    starts, ends = np.where(up[:, None], second, first), np.where(up[:, None], first, second)
    size = len(mesh.vertices)
    keys = np.stack(
        [np.minimum(a, b) * size + np.maximum(a, b), np.minimum(a, c) * size + np.maximum(a, c)]
    )
    _, numbers = np.unique(keys, return_inverse=True)
    one, other = numbers.reshape(2, -1)
    nodes = int(numbers.max()) + 1
    graph = coo_array((np.ones(len(one)), (one, other)), shape=(nodes, nodes))
    label = connected_components(graph, directed=False)[1][one]
    twice = np.cross(starts - through, ends - through) @ normal
    return [
        Loop(abs(float(twice[of].sum())) / 2, starts[of], ends[of])
        for of in (label == k for k in np.unique(label))
    ]


def _cut(mesh: Mesh, height: Array, a: Array, b: Array) -> Array:
    share = height[a] / (height[a] - height[b])
    start, end = mesh.vertices[a], mesh.vertices[b]
    return np.asarray(start + share[:, None] * (end - start))
