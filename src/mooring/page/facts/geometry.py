"""The geometry of a robot for the browser: one GLB, a mesh for each color of each link.

Nodes lie flat and not in a tree, since the browser is told where links are in the world. Parts of
one color are one mesh, since what a browser draws in one go is drawn quickly. Normals are those of
the pictures: smooth, but for creases.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from mooring.cad import Mesh
from mooring.drawing.palette import COLLISION, PLAIN, QUAY
from mooring.drawing.pieces import smooth_normals
from mooring.drawing.runs.instant import land
from mooring.formats.scenes.glb import Glb, by_color, see_through
from mooring.geometry import Array, apply
from mooring.model import Robot
from mooring.model.scene import Ground

Triangles = tuple[Array, Array, NDArray[np.int64]]
"""Points, a normal for each, and which of them make triangles."""


def geometry(robot: Robot, ground: Ground | None = None) -> bytes:
    """The looks and the collision shapes of all links, and ground that is uneven.

    Each node's extras have `link`, its name ("" for the ground), and `layer`, "visual" or
    "collision". A link without looks shows what it collides with.
    """
    glb = Glb()
    found: dict[tuple[str, str, str], list[Triangles]] = {}
    for link, layer, color, mesh, place in _shapes(robot):
        normals = smooth_normals(mesh)
        for shade, chosen in by_color(mesh, color):
            points, directions, faces = _split(mesh, normals, chosen)
            moved = apply(place, points), directions @ place[:3, :3].T, faces
            found.setdefault((link, layer, shade), []).append(moved)
    if ground is not None and ground.heights is not None:
        mesh = land(ground).mesh
        whole = np.ones(len(mesh.faces), dtype=bool)
        found["", "visual", QUAY] = [_split(mesh, smooth_normals(mesh), whole)]
    for (link, layer, color), pieces in found.items():
        extras = {"link": link, "layer": layer}
        number = glb.mesh(link, [_primitive(glb, pieces, color)])
        glb.node(f"{link} {layer}", np.eye(4), None, mesh=number, extras=extras)
    return glb.content()


def _shapes(robot: Robot) -> Iterator[tuple[str, str, str, Mesh, Array]]:
    """Links, layers, colors, meshes, and their places on the links."""
    frames = robot.link_frames()
    for name, link in robot.links.items():
        seen = link.shown(robot.materials)
        shown = [("visual", shape) for shape in seen or link.collisions]
        for layer, shape in [*shown, *(("collision", shape) for shape in link.collisions)]:
            looks = see_through(shape.color or PLAIN, shape.opacity)
            color = COLLISION if layer == "collision" else looks
            mesh = shape.shape.mesh
            if len(mesh.faces):
                yield name, layer, color, mesh, shape.in_link(frames[name])


def _primitive(glb: Glb, pieces: list[Triangles], color: str) -> dict[str, object]:
    counts = [len(points) for points, _, _ in pieces]
    first = np.cumsum([0, *counts[:-1]])
    faces = [faces + start for (_, _, faces), start in zip(pieces, first, strict=True)]
    return {
        "attributes": {
            "POSITION": glb.points(np.concatenate([points for points, _, _ in pieces])),
            "NORMAL": glb.points(np.concatenate([normals for _, normals, _ in pieces])),
        },
        "indices": glb.indices(np.concatenate(faces)),
        "material": glb.material(color),
    }


def _split(mesh: Mesh, normals: Array, chosen: NDArray[np.bool_]) -> Triangles:
    """Points with a normal each: those at a crease stand there several times."""
    corners = mesh.faces[chosen].ravel()
    directions = normals[chosen].reshape(-1, 3)
    keys = np.column_stack([corners, np.round(directions * 4096).astype(np.int64)])
    _, first, number = np.unique(keys, axis=0, return_index=True, return_inverse=True)
    return mesh.vertices[corners[first]], directions[first], number.reshape(-1, 3)
