"""OBJ objects put together again from the pieces that the parser makes of their materials."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path

import numpy as np

from mooring.cad.meshes.parsed import RawNode, RawScene, RawShape
from mooring.cad.paint import painted

_NAME = re.compile(rb"^\s*([og]|usemtl)\s+(\S.*?)\s*$", re.MULTILINE)


def with_whole_objects(scene: RawScene, file: Path) -> RawScene:
    """The scene with one painted shape for each object, whatever its materials."""
    objects: set[str] = set()
    materials: set[str] = set()
    for key, name in _NAME.findall(file.read_bytes()):
        (materials if key == b"usemtl" else objects).add(name.decode("utf-8", "replace"))
    pieces: dict[str, list[str]] = {}
    for name in scene.shapes:
        pieces.setdefault(_object_of(name, objects, materials), []).append(name)
    shapes = {
        owner: _joined([scene.shapes[name] for name in names]) for owner, names in pieces.items()
    }
    owners = {name: owner for owner, names in pieces.items() for name in names}
    nodes: list[RawNode] = []
    done: set[str] = set()
    for node in scene.nodes:
        if node.shape is None:
            nodes.append(node)
            continue
        owner = owners[node.shape]
        if owner not in done:
            done.add(owner)
            name = owner if node.name == node.shape else node.name
            nodes.append(replace(node, name=name, shape=owner))
    return replace(scene, nodes=nodes, shapes=shapes)


def _object_of(name: str, objects: Iterable[str], materials: set[str]) -> str:
    """The object that a piece called `object_material` is of."""
    for owner in sorted(objects, key=len, reverse=True):
        if name == owner or (name.startswith(f"{owner}_") and name[len(owner) + 1 :] in materials):
            return owner
    return name


def _joined(pieces: list[RawShape]) -> RawShape:
    if len(pieces) == 1:
        return pieces[0]
    vertices, faces, colors, count = [], [], [], 0
    for piece in pieces:
        vertices.append(piece.vertices)
        faces.append(piece.faces + count)
        count += len(piece.vertices)
        colors += [piece.color] * len(piece.faces)
    # The part's own color is the one that most of its triangles have.
    usual = max(pieces, key=lambda piece: len(piece.faces)).color
    paint = painted([None if color == usual else color for color in colors])
    return RawShape(np.concatenate(vertices), np.concatenate(faces), usual, paint)
