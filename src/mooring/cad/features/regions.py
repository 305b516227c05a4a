"""Smooth regions of a mesh: what a person would call one face."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from mooring.cad.mesh import Mesh
from mooring.geometry import Array


def normals_and_areas(mesh: Mesh) -> tuple[Array, Array]:
    """The unit normal (m, 3) and the area (m,) [m^2] of every triangle."""
    corners = mesh.corners
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    lengths = np.linalg.norm(cross, axis=1)
    return cross / np.where(lengths > 0, lengths, 1.0)[:, None], lengths / 2


def smooth_regions(mesh: Mesh, normals: Array, crease: float) -> list[NDArray[np.int64]]:
    """Triangles grouped by edges across which the surface folds less than an angle [rad]."""
    first, second = _neighbours(mesh)
    dots = np.einsum("ij,ij->i", normals[first], normals[second])
    smooth = dots > np.cos(crease)
    count = len(mesh.faces)
    ones = np.ones(int(smooth.sum()), dtype=np.int8)
    graph = coo_array((ones, (first[smooth], second[smooth])), shape=(count, count))
    _, labels = connected_components(graph, directed=False)
    order = np.argsort(labels, kind="stable")
    borders = np.flatnonzero(np.diff(labels[order])) + 1
    return [np.asarray(region) for region in np.split(order, borders)]


def _neighbours(mesh: Mesh) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Pairs of triangles that share an edge."""
    faces = mesh.faces
    edges = np.sort(faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
    owners = np.repeat(np.arange(len(faces)), 3)
    keys = edges[:, 0] * len(mesh.vertices) + edges[:, 1]
    order = np.argsort(keys, kind="stable")
    same = np.flatnonzero(np.diff(keys[order]) == 0)
    return owners[order[same]], owners[order[same + 1]]
