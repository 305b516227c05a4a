"""The geometry of a robot for the browser: one GLB, every mesh a node that knows its link.

Nodes lie flat and not in a tree, since the browser is told where links are in the world. Normals
are those of the pictures: smooth, but for creases.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from mooring.cad import Mesh
from mooring.drawing.palette import COLLISION, PLAIN, QUAY
from mooring.drawing.pieces import smooth_normals
from mooring.drawing.runs.instant import land
from mooring.formats.scenes.glb import Glb, by_color
from mooring.geometry import Array
from mooring.model import Robot
from mooring.model.scene import Ground
from mooring.model.shape_meshes import mesh_of
from mooring.model.shapes import PlacedShape


def geometry(robot: Robot, ground: Ground | None = None) -> bytes:
    """The looks and the collision shapes of all links, and ground that is uneven.

    Each node's extras have `link`, its name ("" for the ground), and `layer`, "visual" or
    "collision". A link without looks shows what it collides with.
    """
    glb = Glb()
    made: dict[tuple[int, str], int] = {}
    frames = robot.link_frames()
    for link, layer, shape in _shapes(robot):
        color = COLLISION if layer == "collision" else shape.color or PLAIN
        mesh = mesh_of(shape.shape)
        if not len(mesh.faces):
            continue
        key = (id(mesh), color)
        if key not in made:
            made[key] = glb.mesh(shape.name or link, _primitives(glb, mesh, color))
        extras = {"link": link, "layer": layer}
        glb.node(shape.name or link, shape.in_link(frames[link]), None, mesh=made[key],
                 extras=extras)  # fmt: skip
    if ground is not None and ground.heights is not None:
        piece = land(ground)
        number = glb.mesh("ground", _primitives(glb, piece.mesh, QUAY))
        glb.node("ground", np.eye(4), None, mesh=number, extras={"link": "", "layer": "visual"})
    return glb.content()


def _shapes(robot: Robot) -> Iterator[tuple[str, str, PlacedShape]]:
    for name, link in robot.links.items():
        looks = link.visuals(robot.materials)
        for shape in looks or link.collisions:
            yield name, "visual", shape
        for shape in link.collisions:
            yield name, "collision", shape


def _primitives(glb: Glb, mesh: Mesh, color: str) -> list[dict[str, object]]:
    normals = smooth_normals(mesh)
    found: list[dict[str, object]] = []
    for shade, chosen in by_color(mesh, color):
        points, directions, faces = _split(mesh, normals, chosen)
        found.append(
            {
                "attributes": {"POSITION": glb.points(points), "NORMAL": glb.points(directions)},
                "indices": glb.indices(faces),
                "material": glb.material(shade),
            }
        )
    return found


def _split(
    mesh: Mesh, normals: Array, chosen: NDArray[np.bool_]
) -> tuple[Array, Array, NDArray[np.int64]]:
    """Points with a normal each: those at a crease stand there several times."""
    corners = mesh.faces[chosen].ravel()
    directions = normals[chosen].reshape(-1, 3)
    keys = np.column_stack([corners, np.round(directions * 4096).astype(np.int64)])
    _, first, number = np.unique(keys, axis=0, return_index=True, return_inverse=True)
    return mesh.vertices[corners[first]], directions[first], number.reshape(-1, 3)
