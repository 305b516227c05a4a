"""Regions of a surface that creases go round."""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from mooring.cad.features.regions import Indices
from mooring.cad.mesh import Mesh
from mooring.cad.spreading import normals_and_areas
from mooring.cad.tidying.cutting.necks import Section
from mooring.errors import ModelError
from mooring.units import show, show_point

_FLAT = 0.02
"""Of its size; a crease that leaves its plane farther than this is not flat."""


def creases(mesh: Mesh, angle: float, name: str) -> list[Section]:
    """The planes of the creases round regions of a surface, their normals toward these.

    An edge is a crease if the surface bends inwards there by more than an angle. Regions are what
    is connected without crossing one (Hoffman and Richards, "Parts of Recognition", 1984).

    Args:
        mesh: closed.
        angle: [rad].
        name: of the part, for the errors.

    Raises:
        ModelError: no crease goes all round, or one is not flat.
    """
    first, second = mesh.neighbours
    normals, areas = normals_and_areas(mesh)
    middles = mesh.corners.mean(axis=1)
    bend = np.arccos(np.clip(np.einsum("ij,ij->i", normals[first], normals[second]), -1, 1))
    inward = np.einsum("ij,ij->i", middles[second] - middles[first], normals[first]) > 0
    sharp = inward & (bend > angle)
    smooth = ~sharp
    count = len(mesh.faces)
    graph = coo_array(
        (np.ones(smooth.sum()), (first[smooth], second[smooth])), shape=(count, count)
    )
    regions, label = connected_components(graph, directed=False)
    if regions < 2:
        raise ModelError(
            f"{name} has no crease of {show(angle, 'angle')} that goes all round a region; give a "
            "smaller angle, or cut it at a plane or a neck"
        )
    between = sharp & (label[first] != label[second])
    first, second = first[between], second[between]
    ends = mesh.between(first, second)
    size = len(mesh.vertices)
    graph = coo_array((np.ones(len(ends)), (ends[:, 0], ends[:, 1])), shape=(size, size))
    loop = connected_components(graph, directed=False)[1][ends[:, 0]]
    weights = np.bincount(label, weights=areas)
    found = []
    for number in np.unique(loop):
        of = loop == number
        # Of the two regions that meet there, the smaller is what is cut off.
        region = min({*label[first[of]], *label[second[of]]}, key=lambda one: weights[one])
        found.append(_plane(mesh, np.unique(ends[of]), np.flatnonzero(label == region), name))
    return found


def _plane(mesh: Mesh, crease: Indices, region: Indices, name: str) -> Section:
    corners = mesh.vertices[crease]
    middle = corners.mean(axis=0)
    _, sizes, axes = np.linalg.svd(corners - middle, full_matrices=False)
    off = float(np.abs((corners - middle) @ axes[2]).max())
    if off > _FLAT * sizes[0]:
        raise ModelError(
            f"{name}: the crease at {show_point(middle)} is not flat, but leaves its plane by "
            f"{show(off, 'length')}; cut it at a plane or a neck"
        )
    inner = mesh.vertices[np.unique(mesh.faces[region])].mean(axis=0)
    normal = axes[2] * (1.0 if (inner - middle) @ axes[2] > 0 else -1.0)
    return Section(middle, normal, 0.0)
