"""Fitted shapes remembered on disk, by the content of the rule and of the parts.

Fitting looks at every corner of the parts, in many directions; what comes out depends on nothing
else. Another version of the code that fits starts anew.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np

from mooring.caching import keep, kept, throw_away
from mooring.cad import Part
from mooring.cad.mesh import Mesh
from mooring.model.collision.definition import CollisionRule
from mooring.model.placement import Placement
from mooring.model.shapes import SHAPES, Hull, PlacedShape

_ROOM = Path(__file__).parents[1]


def key_of(rule: CollisionRule, parts: Iterable[Part], about: object) -> str:
    """Changes with whatever a fit depends on."""
    digest = hashlib.sha256(_code())
    digest.update(repr((rule, about)).encode())
    for part in parts:
        digest.update(f"{part.geometry.name or part.name}\0{part.geometry.closed}".encode())
        digest.update(np.ascontiguousarray(part.corners).tobytes())
        for face in part.cylinders:
            digest.update(face.direction.tobytes())
    return digest.hexdigest()[:32]


def recall(key: str) -> tuple[str, tuple[PlacedShape, ...]] | None:
    """The rule that was followed and the shapes, if they are kept and sound."""
    found = kept("fits", f"{key}.json")
    if found is None:
        return None
    try:
        said = json.loads(found)
        return str(said["rule"]), tuple(_shape(entry) for entry in said["shapes"])
    except (ValueError, KeyError, TypeError):
        throw_away("fits", f"{key}.json")
        return None


def remember(key: str, rule: str, shapes: Iterable[PlacedShape]) -> None:
    """Keep shapes that are written in few numbers; a mesh is its parts' own."""
    entries = [_entry(placed) for placed in shapes]
    if None not in entries:
        text = json.dumps({"rule": rule, "shapes": entries})
        keep("fits", f"{key}.json", text.encode())


def recall_judgement(key: str) -> tuple[float, float] | None:
    """The excess and the overhang of what is remembered under a key, if they are kept."""
    found = kept("fits", f"{key}.judged.json")
    if found is None:
        return None
    try:
        excess, overhang = json.loads(found)
        return float(excess), float(overhang)
    except (ValueError, TypeError):
        return None


def remember_judgement(key: str, judged: tuple[float, float]) -> None:
    """Keep an excess and an overhang."""
    keep("fits", f"{key}.judged.json", json.dumps(judged).encode())


def _entry(placed: PlacedShape) -> dict[str, Any] | None:
    shape = placed.shape
    entry: dict[str, Any] = {"kind": shape.kind, "place": placed.placement.matrix.tolist()}
    if shape.of_triangles and shape.convex:
        mesh = shape.mesh
        name, vertices, faces = getattr(shape, "name", ""), mesh.vertices, mesh.faces
        return entry | {"name": name, "vertices": vertices.tolist(), "faces": faces.tolist()}
    return entry | {"sizes": vars(shape)} if shape.kind in SHAPES else None


def _shape(entry: dict[str, Any]) -> PlacedShape:
    place = Placement(np.array(entry["place"], dtype=float), "cad")
    if entry["kind"] == Hull.kind:
        mesh = Mesh(
            np.array(entry["vertices"], dtype=float), np.array(entry["faces"], dtype=np.int64)
        )
        return PlacedShape(Hull(mesh, entry["name"]), place)
    sizes: dict[str, Any] = {
        name: tuple(value) if isinstance(value, list) else value
        for name, value in entry["sizes"].items()
    }
    return PlacedShape(SHAPES[entry["kind"]](**sizes), place)


@cache
def _code() -> bytes:
    digest = hashlib.sha256()
    for folder in ("collision", "shapes"):
        for source in sorted((_ROOM / folder).glob("*.py")):
            digest.update(source.read_bytes())
    return digest.digest()
