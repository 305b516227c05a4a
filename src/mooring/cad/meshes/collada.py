"""COLLADA, parsed by pycollada, with the names of its nodes."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from mooring.cad.meshes.parsed import RawNode, RawScene, RawShape, hex_color
from mooring.geometry import Array

_DEEPEST = 100


def parse(file: Path) -> RawScene:
    """Parse a file; raises whatever the parser raises."""
    import collada
    from collada.common import DaeError

    # A material, image or animation that is damaged is no reason to refuse the geometry.
    with file.open("rb") as stream:
        document = collada.Collada(stream, ignore=[DaeError])
    scene = RawScene()
    damaged = [str(getattr(error, "msg", error)).strip() for error in document.errors]
    scene.notes += [f"left out as damaged: {text}" for text in dict.fromkeys(damaged) if text]
    if document.scene is not None:
        for node in document.scene.nodes:
            _walk(scene, node, np.eye(4), ())
    return scene


def _walk(scene: RawScene, node: Any, parent: Array, path: tuple[str, ...]) -> None:
    from collada.scene import GeometryNode, Node, NodeNode

    if len(path) > _DEEPEST or not isinstance(node, (Node, NodeNode)):
        return
    name = node.xmlnode.get("name") or node.xmlnode.get("id") or ""
    inner = node.node if isinstance(node, NodeNode) else node
    name = name or inner.xmlnode.get("name") or ""
    transform = parent @ np.asarray(inner.matrix, dtype=float)
    below = [child for child in inner.children if isinstance(child, (Node, NodeNode))]
    carried = [child for child in inner.children if isinstance(child, GeometryNode)]
    for geometry in carried:
        shape = _shape(scene, geometry)
        scene.nodes.append(RawNode(name or shape, path, transform, shape))
    if not carried and not below and name:
        scene.nodes.append(RawNode(name, path, transform, None))
    for child in below:
        _walk(scene, child, transform, (*path, name) if name else path)


def _shape(scene: RawScene, instance: Any) -> str:
    geometry = instance.geometry
    name = str(geometry.name or geometry.id)
    targets = {material.symbol: material.target for material in instance.materials}
    vertices, faces, color, count = [], [], None, 0
    for primitive in geometry.primitives:
        if hasattr(primitive, "triangleset"):
            primitive = primitive.triangleset()
        index = getattr(primitive, "vertex_index", None)
        if index is None or primitive.vertex is None or np.ndim(index) != 2 or not len(index):
            continue
        vertices.append(np.asarray(primitive.vertex, dtype=float))
        faces.append(np.asarray(index, dtype=np.int64) + count)
        count += len(primitive.vertex)
        effect = getattr(targets.get(primitive.material), "effect", None)
        diffuse = getattr(effect, "diffuse", None)
        color = color or hex_color(diffuse if isinstance(diffuse, tuple) else None)
    made = RawShape(
        np.concatenate(vertices) if vertices else np.zeros((0, 3)),
        np.concatenate(faces) if faces else np.zeros((0, 3), dtype=np.int64),
        color,
    )
    # Instances of one geometry share it unless they are painted differently.
    key = name
    if key in scene.shapes and scene.shapes[key].color != color:
        key = f"{name} {color}"
    scene.shapes.setdefault(key, made)
    return key
