"""A part's surfaces from what was found face by face."""

from __future__ import annotations

from collections.abc import Sequence

from mooring.cad.mesh import Mesh
from mooring.cad.surfaces import (
    ConicalFace,
    CylindricalFace,
    PlanarFace,
    SphericalFace,
    Surface,
    join_cones,
    join_cylinders,
    join_spheres,
)
from mooring.cad.surfaces.ends import with_open_ends


def joined_surfaces(found: Sequence[Surface], mesh: Mesh) -> tuple[Surface, ...]:
    """The surfaces of a part of which faces that lie on the same one are pieces.

    Programs split round faces into halves or quarters; planes stay as they are.

    Args:
        found: one for each face.
        mesh: the part's triangles, which tell the open ends of its bores.
    """
    joined: list[Surface] = [
        *(face for face in found if isinstance(face, PlanarFace)),
        *join_cylinders([face for face in found if isinstance(face, CylindricalFace)]),
        *join_cones([face for face in found if isinstance(face, ConicalFace)]),
        *join_spheres([face for face in found if isinstance(face, SphericalFace)]),
    ]
    return with_open_ends(joined, mesh)
