"""Triangles as binary PLY, in double precision."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from mooring.cad import Mesh
from mooring.files import write_whole

_VERTEX = np.dtype([("position", "<f8", 3)])
_FACE = np.dtype([("count", "u1"), ("corners", "<i4", 3)])
_PAINTED = np.dtype([*_FACE.descr, ("color", "u1", 3)])


def write_ply(mesh: Mesh, file: Path, colors: Sequence[str] | None = None) -> None:
    """Write a mesh.

    Args:
        mesh: in metres.
        file: where to.
        colors: "#rrggbb" of each triangle.
    """
    header = (
        "ply\nformat binary_little_endian 1.0\ncomment metres\n"
        f"element vertex {len(mesh.vertices)}\n"
        "property double x\nproperty double y\nproperty double z\n"
        f"element face {len(mesh.faces)}\nproperty list uchar int vertex_indices\n"
    )
    vertices = np.zeros(len(mesh.vertices), dtype=_VERTEX)
    vertices["position"] = mesh.vertices
    faces = np.zeros(len(mesh.faces), dtype=_FACE if colors is None else _PAINTED)
    faces["count"], faces["corners"] = 3, mesh.faces
    if colors is not None:
        header += "property uchar red\nproperty uchar green\nproperty uchar blue\n"
        rgb = [[int(c[k : k + 2], 16) for k in (1, 3, 5)] for c in colors]
        faces["color"] = np.array(rgb, dtype=np.uint8).reshape(-1, 3)
    with write_whole(file) as stream:
        stream.write(f"{header}end_header\n".encode() + vertices.tobytes() + faces.tobytes())
