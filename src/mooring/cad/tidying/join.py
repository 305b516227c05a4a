"""One part from several."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from mooring.cad.mesh import Mesh
from mooring.cad.paint import Paint, painted
from mooring.cad.part import Geometry, Part
from mooring.cad.solid import sum_of_solids
from mooring.errors import ModelError
from mooring.geometry import apply, inverse


def joined_part(name: str, parts: Sequence[Part]) -> Part:
    """Several parts as one, in the place of the first.

    Volumes add up; the parts' faces stay.

    Raises:
        ModelError: fewer than two parts, or parts of different materials, whose densities one part
            could not hold.
    """
    if len(parts) < 2:
        raise ModelError(f"joining {name!r} needs at least two parts")
    materials = {part.material for part in parts}
    if len(materials) > 1:
        named = ", ".join(sorted(m.name if m else "none" for m in materials))
        raise ModelError(
            f"{name!r} cannot be joined from parts of different materials ({named}); put them into "
            "one link instead, which keeps the density of each"
        )
    first = parts[0]
    home = inverse(first.placement)
    vertices, faces, count = [], [], 0
    for part in parts:
        place = home @ part.placement
        vertices.append(apply(place, part.mesh.vertices))
        faces.append(part.mesh.faces + count)
        count += len(part.mesh.vertices)
    geometry = Geometry(
        name,
        Mesh(np.concatenate(vertices), np.concatenate(faces), _paint(parts)),
        sum_of_solids([part.geometry.solid.placed(home @ part.placement) for part in parts]),
        "exact solid" if all(p.geometry.source == "exact solid" for p in parts) else "mesh",
        tuple(
            face.placed(home @ part.placement) for part in parts for face in part.geometry.surfaces
        ),
        sum(part.geometry.bodies for part in parts),
        all(part.geometry.closed for part in parts),
    )
    folder, _, _ = first.path.rpartition("/")
    path = f"{folder}/{name}" if folder else name
    return replace(first, name=name, path=path, geometry=geometry)


def _paint(parts: Sequence[Part]) -> Paint | None:
    """Each triangle's color, where the parts differ in theirs."""
    colors: list[str | None] = []
    for part in parts:
        paint = part.mesh.paint
        own = None if part.color == parts[0].color else part.color
        if paint is None:
            colors += [own] * len(part.mesh.faces)
        else:
            colors += [own if k < 0 else paint.colors[k] for k in paint.of_triangle]
    return painted(colors)
