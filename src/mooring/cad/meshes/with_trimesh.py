"""STL, OBJ, PLY, OFF, glTF and 3MF, parsed by trimesh."""

from __future__ import annotations

import re
from collections.abc import Mapping
from contextlib import ExitStack
from io import BytesIO
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np

from mooring.cad.meshes.mended import mended_stl
from mooring.cad.meshes.obj_objects import with_whole_objects
from mooring.cad.meshes.parsed import RawNode, RawScene, RawShape, hex_color
from mooring.cad.paint import Paint

# Names that the parser makes up where the file has none.
_MADE_UP = re.compile(r"geometry_\d+")
_MOST_COLORS = 64


def parse(file: Path, suffix: str, companions: Mapping[str, bytes]) -> RawScene:
    """Parse a file; raises whatever the parser raises."""
    import trimesh

    options = {"split_objects": True, "group_material": True} if suffix == ".obj" else {}
    note = ""
    with ExitStack() as stack:
        stream: BinaryIO
        if suffix == ".stl":
            data, note = mended_stl(file)
            stream = BytesIO(data)
        else:
            stream = stack.enter_context(file.open("rb"))
        scene = trimesh.load_scene(
            stream,
            file_type=suffix.lstrip("."),
            resolver=companions,
            process=False,
            **options,
        )
    made_up = {str(file), file.name}
    linear = suffix in (".glb", ".gltf")
    shapes = {str(name): _shape(shape, linear) for name, shape in scene.geometry.items()}
    graph = scene.graph
    nodes = []
    for node in sorted(graph.nodes, key=str):
        if node == graph.base_frame:
            continue
        transform, shape = graph[node]
        name = "" if _MADE_UP.fullmatch(str(node)) or node in made_up else str(node)
        path = _path(graph, node)
        nodes.append(RawNode(name, path, np.asarray(transform, dtype=float), shape))
    unit = str(getattr(scene, "metadata", {}).get("units", "")) or None
    raw = RawScene(nodes, shapes, unit, [note] if note else [])
    return with_whole_objects(raw, file) if suffix == ".obj" else raw


def _path(graph: Any, node: str) -> tuple[str, ...]:
    trail: list[str] = []
    step = graph.transforms.parents.get(node)
    while step is not None and step != graph.base_frame and len(trail) < 100:
        trail.append(str(step))
        step = graph.transforms.parents.get(step)
    return tuple(reversed(trail))


def _shape(source: Any, linear: bool) -> RawShape:
    vertices = np.asarray(getattr(source, "vertices", ()), dtype=float).reshape(-1, 3)
    faces = np.asarray(getattr(source, "faces", ()), dtype=np.int64).reshape(-1, 3)
    visual = getattr(source, "visual", None)
    material = getattr(visual, "material", None)
    color, paint = None, None
    if material is not None:
        color = hex_color(getattr(material, "baseColorFactor", None), linear=linear)
        color = color or hex_color(getattr(material, "main_color", None))
    elif visual is not None and visual.kind in ("vertex", "face"):
        color = hex_color(getattr(visual, "main_color", None))
        paint = _paint(np.asarray(getattr(visual, "face_colors", ())), len(faces))
    return RawShape(vertices, faces, color, paint)


def _paint(colors: np.ndarray[Any, Any], count: int) -> Paint | None:
    """Painted faces as paint; a scan, where every triangle has another color, has none."""
    if colors.shape[:1] != (count,) or colors.ndim != 2 or colors.shape[1] < 3:
        return None
    distinct, of_triangle = np.unique(colors[:, :3], axis=0, return_inverse=True)
    if not 2 <= len(distinct) <= _MOST_COLORS:
        return None
    named = tuple("#" + "".join(f"{int(v):02x}" for v in row) for row in distinct)
    return Paint(named, of_triangle.ravel().astype(np.int32))
