"""Writing meshes as binary STL."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from mooring.cad import Mesh
from mooring.files import write_whole

_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def write_stl(mesh: Mesh, file: Path) -> None:
    """Write a mesh in metres, as STL's single-precision numbers."""
    records = np.zeros(len(mesh.faces), dtype=_RECORD)
    corners = mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    lengths = np.linalg.norm(normals, axis=1, keepdims=True)
    records["normal"] = normals / np.where(lengths > 0, lengths, 1)
    records["corners"] = corners
    header = b"binary STL in metres".ljust(80)
    with write_whole(file) as stream:
        stream.write(header + np.uint32(len(records)).tobytes() + records.tobytes())
