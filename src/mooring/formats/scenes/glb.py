"""A glTF 2.0 binary file as it grows: accessors, meshes, materials, nodes.

Khronos Group, glTF 2.0 Specification.
"""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np
from numpy.typing import NDArray

from mooring.cad import Mesh
from mooring.geometry import Array

FLOAT, UNSIGNED = 5126, 5125
_ARRAY_BUFFER, _ELEMENT_BUFFER = 34962, 34963


class Glb:
    """The JSON tree and the binary buffer.

    Attributes:
        nodes, meshes, animations: as glTF has them; what is put in comes out.
    """

    def __init__(self) -> None:
        self.data = bytearray()
        self.views: list[dict[str, Any]] = []
        self.accessors: list[dict[str, Any]] = []
        self.materials: dict[str, int] = {}
        self.meshes: list[dict[str, Any]] = []
        self.nodes: list[dict[str, Any]] = []
        self.animations: list[dict[str, Any]] = []

    def node(self, name: str, place: Array, parent: int | None, **more: Any) -> int:
        """A node at a place (4, 4) on its parent; its number."""
        node: dict[str, Any] = {"name": name, **more}
        # Apart, since a node that is animated must not have a matrix.
        if np.abs(place[:3, 3]).max() > 0:
            node["translation"] = [float(value) for value in place[:3, 3]]
        if not np.array_equal(place[:3, :3], np.eye(3)):
            node["rotation"] = [float(value) for value in quaternions(place[None])[0]]
        self.nodes.append(node)
        number = len(self.nodes) - 1
        if parent is not None:
            self.nodes[parent].setdefault("children", []).append(number)
        return number

    def mesh(self, name: str, primitives: list[dict[str, Any]]) -> int:
        """A mesh; its number."""
        self.meshes.append({"name": name, "primitives": primitives})
        return len(self.meshes) - 1

    def points(self, points: Array) -> int:
        """Positions or normals, (n, 3); the accessor's number."""
        values = np.ascontiguousarray(points, dtype="<f4")
        low, high = values.min(axis=0), values.max(axis=0)
        accessor = {
            "componentType": FLOAT, "type": "VEC3", "count": len(values),
            "min": [float(v) for v in low], "max": [float(v) for v in high],
        }  # fmt: skip
        return self.accessor(values, accessor, _ARRAY_BUFFER)

    def indices(self, faces: NDArray[np.int64]) -> int:
        """Corners of triangles, (m, 3); the accessor's number."""
        flat = faces.astype("<u4").ravel()
        accessor = {"componentType": UNSIGNED, "type": "SCALAR", "count": len(flat)}
        return self.accessor(flat, accessor, _ELEMENT_BUFFER)

    def accessor(
        self, values: NDArray[Any], accessor: dict[str, Any], target: int | None = None
    ) -> int:
        """Any numbers, described by `accessor`; its number."""
        raw = values.tobytes()
        view = {"buffer": 0, "byteOffset": len(self.data), "byteLength": len(raw)}
        if target is not None:
            view["target"] = target
        self.views.append(view)
        self.data += raw
        self.accessors.append({"bufferView": len(self.views) - 1, **accessor})
        return len(self.accessors) - 1

    def material(self, color: str) -> int:
        """A matt material of a color "#rrggbb", or "#rrggbbaa" that is seen through; its number."""
        return self.materials.setdefault(color, len(self.materials))

    def content(self) -> bytes:
        """The whole file."""
        children = {child for node in self.nodes for child in node.get("children", ())}
        tree = {
            "asset": {"version": "2.0", "generator": "Mooring"},
            "scene": 0,
            "scenes": [{"nodes": [k for k in range(len(self.nodes)) if k not in children]}],
            "nodes": self.nodes,
            "meshes": self.meshes,
            "materials": [_pbr(color) for color in self.materials],
            "accessors": self.accessors,
            "bufferViews": self.views,
            "buffers": [{"byteLength": len(self.data)}],
            **({"animations": self.animations} if self.animations else {}),
        }
        text = json.dumps(tree, separators=(",", ":")).encode()
        text += b" " * (-len(text) % 4)
        data = bytes(self.data) + b"\0" * (-len(self.data) % 4)
        length = 12 + 8 + len(text) + 8 + len(data)
        return b"".join(
            (
                struct.pack("<4sII", b"glTF", 2, length),
                struct.pack("<I4s", len(text), b"JSON"),
                text,
                struct.pack("<I4s", len(data), b"BIN\0"),
                data,
            )
        )


def by_color(mesh: Mesh, color: str) -> list[tuple[str, NDArray[np.bool_]]]:
    """The colors of a mesh that has one and may be painted, each with its triangles, (m,)."""
    if mesh.paint is None:
        return [(color, np.ones(len(mesh.faces), dtype=bool))]
    colors = [*enumerate(mesh.paint.colors), (-1, color)]
    found = [(shade, np.asarray(mesh.paint.of_triangle == k)) for k, shade in colors]
    return [(shade, chosen) for shade, chosen in found if chosen.any()]


def see_through(color: str, opacity: float) -> str:
    """A color "#rrggbb", as "#rrggbbaa" where it is seen through."""
    return color if opacity >= 1 else f"{color}{round(255 * opacity):02x}"


def quaternions(places: Array) -> Array:
    """The rotations of places (r, 4, 4) as x, y, z, w, (r, 4), without jumps of sign."""
    from scipy.spatial.transform import Rotation

    found = np.atleast_2d(Rotation.from_matrix(places[:, :3, :3]).as_quat())
    jumps = np.einsum("ij,ij->i", found[1:], found[:-1]) < 0
    signs = np.concatenate([[1.0], np.cumprod(np.where(jumps, -1.0, 1.0))])
    return np.asarray(found * signs[:, None])


def _pbr(color: str) -> dict[str, Any]:
    """A matt material; glTF's factors are linear, a color's values are not (IEC 61966-2-1)."""
    srgb = np.array([int(color[k : k + 2], 16) / 255 for k in (1, 3, 5)])
    linear = np.where(srgb <= 0.04045, srgb / 12.92, ((srgb + 0.055) / 1.055) ** 2.4)
    factors = [round(float(v), 6) for v in linear]
    opacity = int(color[7:9] or "ff", 16) / 255
    return {
        "name": f"color_{color.lstrip('#')}",
        **({"alphaMode": "BLEND"} if opacity < 1 else {}),
        "pbrMetallicRoughness": {
            "baseColorFactor": [*factors, round(opacity, 4)],
            "metallicFactor": 0.1,
            "roughnessFactor": 0.7,
        },
    }
