"""A mesh file with all its parts as one mesh."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from mooring.cad.assembly import Assembly
from mooring.cad.mesh import Mesh
from mooring.cad.paint import Paint
from mooring.cad.part import Part
from mooring.cad.tidying.join import joined_part


def one_mesh(assembly: Assembly) -> Mesh:
    """All parts of a mesh file as one mesh, each in its place and its color."""
    parts = assembly.parts
    if len(parts) == 1 and parts[0].mesh.paint is None and parts[0].color is None:
        return Mesh(parts[0].vertices, parts[0].mesh.faces)
    whole = parts[0] if len(parts) == 1 else joined_part("whole", [_bare(p) for p in parts])
    return Mesh(whole.vertices, whole.mesh.faces, _painted_all_over(whole))


def _bare(part: Part) -> Part:
    """Without its material: a picture has no density."""
    return replace(part, material=None)


def _painted_all_over(part: Part) -> Paint | None:
    paint = part.mesh.paint
    if part.color is None:
        return paint
    if paint is None:
        return Paint((part.color,), np.zeros(len(part.mesh.faces), dtype=np.int32))
    own = np.where(paint.of_triangle < 0, len(paint.colors), paint.of_triangle)
    return Paint((*paint.colors, part.color), own.astype(np.int32))
