"""One part for each body of a part that is several."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from mooring.cad.mesh import Mesh
from mooring.cad.part import Geometry, Part
from mooring.cad.surfaces import Surface
from mooring.errors import ModelError
from mooring.geometry import Array


def split_part(part: Part) -> list[Part]:
    """The bodies of a part, largest first, called `name_1`, `name_2`, ...

    Bodies are what is connected by triangles. Their volumes are those of the triangles, since exact
    solids are known for the whole part only; each face goes with the body it lies on.

    Raises:
        ModelError: the part is one body.
    """
    mesh = part.mesh
    labels = mesh.body_of_vertex
    bodies = [_part_of(mesh, labels == label) for label in np.unique(labels[mesh.faces[:, 0]])]
    if len(bodies) < 2:
        raise ModelError(f"{part.name} is one body and cannot be split")
    bodies.sort(key=lambda body: -abs(body.solid.volume))
    owners = [_owner(face, bodies) for face in part.geometry.surfaces]
    parts = []
    for number, body in enumerate(bodies):
        faces = tuple(
            face
            for face, owner in zip(part.geometry.surfaces, owners, strict=True)
            if owner == number
        )
        name = f"{part.geometry.name or part.name}_{number + 1}"
        geometry = Geometry(name, body, body.solid, "mesh", faces, 1, body.closed)
        parts.append(
            replace(
                part,
                name=f"{part.name}_{number + 1}",
                path=f"{part.path}_{number + 1}",
                geometry=geometry,
            )
        )
    return parts


def _part_of(mesh: Mesh, chosen: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> Mesh:
    numbers = np.cumsum(chosen) - 1
    kept = chosen[mesh.faces[:, 0]]
    paint = None if mesh.paint is None else mesh.paint.of(kept)
    return Mesh(mesh.vertices[chosen], numbers[mesh.faces[kept]], paint)


def _owner(face: Surface, bodies: list[Mesh]) -> int:
    """The body with the most corners on a face."""
    return int(np.argmax([_corners_on(face, body.vertices) for body in bodies]))


def _corners_on(face: Surface, points: Array) -> int:
    near = face.distance(points) < 1e-6 + 1e-4 * face.reach
    return int((near & (np.linalg.norm(points - face.centre, axis=1) <= 1.001 * face.reach)).sum())
