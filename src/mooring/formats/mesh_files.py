"""Where meshes are read from, so that a description written later can name the same files."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from mooring.cad.meshes.conventions import UNITLESS
from mooring.model.shapes import MeshFile
from mooring.units import to_si


def mesh_file(
    path: Path,
    *,
    address: str = "",
    unit: str | None = None,
    scale: Sequence[float] | None = None,
) -> MeshFile | None:
    """The file of a mesh as others can name it; None where they would read it otherwise.

    Args:
        path: where it was found.
        address: how it was named, if not by its path.
        unit: the length its number 1 was taken for, where somebody said so.
        scale: what its coordinates were multiplied by besides.
    """
    if unit is not None and path.suffix.lower() not in UNITLESS:
        # What the file says was overruled, which no other reader would know.
        return None
    own = 1.0 if unit is None else to_si(f"1 {unit}", "length")
    x, y, z = (own * factor for factor in (scale or (1.0, 1.0, 1.0)))
    return MeshFile(path, address, (x, y, z))
