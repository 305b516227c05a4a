"""Triangles turned the right way round."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import breadth_first_order, connected_components

from mooring.cad.features import find_surfaces
from mooring.cad.mesh import Mesh
from mooring.cad.part import Geometry
from mooring.cad.touching.inside import inside

Flags = NDArray[np.bool_]


def repaired(geometry: Geometry) -> tuple[Geometry, int]:
    """A geometry whose triangles all face outwards, and how many had to be turned.

    Triangles are first made to agree with their neighbours, then each connected piece is turned
    outwards: a piece inside another is the wall of a cavity and faces into it. Gaps stay gaps.
    """
    mesh = geometry.mesh
    turn = _agreeing(mesh)
    turned = _turned(mesh, turn)
    turn ^= _inside_out(turned)
    count = int(turn.sum())
    if count == 0:
        return geometry, 0
    mesh = _turned(mesh, turn)
    solid = geometry.solid if geometry.source == "exact solid" else mesh.solid
    surfaces = find_surfaces(mesh)
    return replace(geometry, mesh=mesh, solid=solid, surfaces=surfaces, closed=mesh.closed), count


def _turned(mesh: Mesh, turn: Flags) -> Mesh:
    faces = mesh.faces.copy()
    faces[turn] = faces[turn][:, ::-1]
    return Mesh(mesh.vertices, faces, mesh.paint)


def _agreeing(mesh: Mesh) -> Flags:
    """Which triangles to turn so that each agrees with its neighbours.

    Of each connected piece the smaller share is turned.
    """
    count = len(mesh.faces)
    first, second = mesh.neighbours
    clash = _same_way(mesh, first, second)
    graph = coo_array((np.ones(len(first)), (first, second)), shape=(count, count)).tocsr()
    graph = (graph + graph.T).tocsr()
    clashes = {(int(a), int(b)) for a, b in zip(first[clash], second[clash], strict=True)}
    clashes |= {(b, a) for a, b in clashes}
    pieces, labels = connected_components(graph, directed=False)
    turn = np.zeros(count, dtype=bool)
    if not clashes:
        return turn
    for piece in range(pieces):
        members = np.flatnonzero(labels == piece)
        if len(members) < 2:
            continue
        order, before = breadth_first_order(graph, int(members[0]), directed=False)
        for triangle in order[1:]:
            known = int(before[triangle])
            turn[triangle] = turn[known] ^ ((known, int(triangle)) in clashes)
        if turn[members].sum() > len(members) / 2:
            turn[members] = ~turn[members]
    return turn


def _same_way(mesh: Mesh, first: NDArray[np.int64], second: NDArray[np.int64]) -> Flags:
    """Whether two neighbours run along their common edge in one direction, and so disagree."""
    one, other = mesh.faces[first], mesh.faces[second]
    result = np.zeros(len(first), dtype=bool)
    for i in range(3):
        for j in range(3):
            a, b = one[:, i], one[:, (i + 1) % 3]
            c, d = other[:, j], other[:, (j + 1) % 3]
            result |= (a == c) & (b == d)
    return result


def _inside_out(mesh: Mesh) -> Flags:
    """The triangles of the connected pieces that face the wrong way."""
    of_vertex = mesh.body_of_vertex
    of_triangle = of_vertex[mesh.faces[:, 0]]
    wrong = np.zeros(len(mesh.faces), dtype=bool)
    for body in np.unique(of_triangle):
        chosen = of_triangle == body
        piece = Mesh(mesh.vertices, mesh.faces[chosen])
        others = mesh.corners[~chosen]
        corner = mesh.vertices[piece.faces[0, :1]]
        cavity = len(others) > 0 and bool(inside(others, corner)[0])
        if (_volume(piece) < 0) != cavity:
            wrong |= chosen
    return wrong


def _volume(piece: Mesh) -> float:
    """Signed; of an open piece that of the cone over its middle [m^3]."""
    corners = piece.corners
    a, b, c = np.moveaxis(corners - corners.reshape(-1, 3).mean(axis=0), 1, 0)
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)
