"""One part for each body of a part that is several."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from mooring.cad.mesh import Mesh
from mooring.cad.part import Geometry, Part
from mooring.cad.surfaces import Surface
from mooring.errors import ModelError
from mooring.geometry import Array


def split_part(part: Part) -> list[Part]:
    """The bodies of a part, largest first, called `name_1`, `name_2`, ...

    Bodies are the exact solids of the file where it has several, even if they touch; otherwise what
    is connected by triangles, with the volumes of those.

    Raises:
        ModelError: the part is one body.
    """
    bodies = part.geometry.solids or _connected(part.geometry)
    if len(bodies) < 2:
        raise ModelError(
            f"{part.name} is one body and cannot be split; cut: cuts what is fused, by planes, "
            "boxes, cylinders, creases or at its narrowest place"
        )
    return numbered(part, bodies)


def numbered(part: Part, bodies: Sequence[Geometry]) -> list[Part]:
    """The bodies of a part as parts, largest first; of equals the lower in x, y, z."""
    low, high = part.geometry.bounds
    grain = float(np.linalg.norm(high - low)) / 1e4

    def rank(body: Geometry) -> tuple[float, ...]:
        # Bodies that are copies of each other differ in the last digits only.
        volume = float(f"{abs(body.solid.volume):.4g}")
        return (-volume, *np.round(body.mesh.bounds.mean(axis=0) / grain))

    found = []
    for number, body in enumerate(sorted(bodies, key=rank), 1):
        named = replace(body, name=f"{part.geometry.name or part.name}_{number}")
        plain, color = named.in_one_color()
        found.append(
            replace(
                part,
                name=f"{part.name}_{number}",
                path=f"{part.path}_{number}",
                geometry=plain,
                color=color or part.color,
            )
        )
    return found


def _connected(geometry: Geometry) -> list[Geometry]:
    mesh = geometry.mesh
    labels = mesh.body_of_vertex
    bodies = [_part_of(mesh, labels == label) for label in np.unique(labels[mesh.faces[:, 0]])]
    owners = [_owner(face, bodies) for face in geometry.surfaces]
    found = []
    for number, body in enumerate(bodies):
        faces = tuple(
            face for face, owner in zip(geometry.surfaces, owners, strict=True) if owner == number
        )
        found.append(Geometry(geometry.name, body, body.solid, "mesh", faces, 1, body.closed))
    return found


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
