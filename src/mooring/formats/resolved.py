"""The resolved description: a document in JSON with nothing left to be computed or looked up.

JSON is YAML, so it is read like any other document; programs read it with what they have for JSON.
Every number is SI, every place is on a link, and meshes stand beside it.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np

from mooring.cad import Mesh
from mooring.formats.scenes.beside import MeshesBeside
from mooring.formats.scenes.ply import write_ply
from mooring.geometry import rpy_from_rotation
from mooring.model import PlacedShape, Robot
from mooring.model.definition.described import Described
from mooring.model.definition.walking import fields_of
from mooring.model.placement import Placement
from mooring.model.registry import KINDS
from mooring.model.robot.copying import resolved
from mooring.model.scene import Scene
from mooring.model.shapes.placed import BESIDE


def write_json(robot: Robot, file: Path) -> list[str]:
    """Write the resolved description of a robot.

    Returns:
        What it cannot carry, a sentence each.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    return _write(robot, {"mooring": 1, **_head(robot)}, file)


def write_scene_json(scene: Scene, file: Path) -> list[str]:
    """Write the resolved description of a scene; of a robot by itself, that of the robot.

    Returns:
        What it cannot carry, a sentence each.

    Raises:
        UnsoundRobotError: it is no tree.
    """
    if scene.alone:
        return write_json(scene.robot, file)
    head = {key: value for key, value in _head(scene.robot).items() if key != "base"}
    settings = {key: value for key, value in _plain(scene.settings).items() if value != {}}
    return _write(scene.robot, {"mooring": 1, "kind": "scene", **head, **settings}, file)


def _head(robot: Robot) -> dict[str, Any]:
    head: dict[str, Any] = _plain(robot.head)
    head["checks"] = {key: value for key, value in head["checks"].items() if value}
    return head if head["checks"] else {k: v for k, v in head.items() if k != "checks"}


def _write(robot: Robot, head: dict[str, Any], file: Path) -> list[str]:
    meshes = MeshesBeside(file, ".ply")
    described = {**head, **sections(robot, meshes)}
    meshes.write(_write_mesh, json.dumps(described, indent=1, ensure_ascii=False) + "\n")
    losses = []
    if any("inertia" in entry for entry in described["links"].values()):
        losses.append("masses are given now: from what they were computed is left out")
    if any(link.parts for link in robot.links.values()):
        losses.append("parts are shapes now: from which CAD they came is left out")
    return losses


def sections(robot: Robot, meshes: MeshesBeside) -> dict[str, Any]:
    """The items of a robot as plain values, with the keys of a document.

    Args:
        robot: a sound tree.
        meshes: where its meshes will be.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    bare = resolved(robot)
    found: dict[str, Any] = {}
    for kind in KINDS.values():
        items = bare.section(kind.name)
        if kind.name == "allowance":
            entries: Any = [{"between": list(pair), "because": why} for pair, why in items.items()]
        else:
            entries = {name: _plain(item, meshes) for name, item in items.items()}
        if entries:
            found[kind.section] = entries
    return found


def _plain(value: Any, meshes: MeshesBeside | None = None) -> Any:
    """A value as JSON takes it and a document has it."""
    if isinstance(value, PlacedShape):
        return _shape(value, meshes)
    if isinstance(value, Described):
        entry = {
            name: _plain(getattr(value, name), meshes)
            for name in fields_of(type(value))
            if _said(value, name)
        }
        # What says that there is nothing to collide with is a word.
        return {**entry, "collision": "none"} if entry.get("collision") == [] else entry
    if isinstance(value, Placement):
        turn = rpy_from_rotation(value.matrix[:3, :3]) + 0.0
        return {"xyz": (value.matrix[:3, 3] + 0.0).tolist(), "rpy": turn.tolist()}
    if isinstance(value, Mapping):
        return {key: _plain(item, meshes) for key, item in value.items()}
    if isinstance(value, (tuple, list)):
        return [_plain(item, meshes) for item in value]
    return value


def _said(value: Described, name: str) -> bool:
    """Whether a field is worth writing: not where nothing is said, nor a mere empty collection."""
    held = getattr(value, name)
    if held is None:
        return False
    if name == "collision":
        return True
    return not (isinstance(held, (tuple, Mapping)) and len(held) == 0)


def _shape(placed: PlacedShape, meshes: MeshesBeside | None) -> dict[str, Any]:
    shape = placed.shape
    if shape.of_triangles:
        assert meshes is not None
        written: Any = meshes.path(shape)
    else:
        written = shape.written  # type: ignore[attr-defined]
    entry = {shape.kind: written, "at": _plain(placed.placement)}
    beside = {key: _plain(getattr(placed, key)) for key in BESIDE if key != "at"}
    return entry | {key: value for key, value in beside.items() if value not in (None, "", [], 1.0)}


def _write_mesh(mesh: Mesh, file: Path) -> None:
    if mesh.paint is None:
        write_ply(mesh, file)
        return
    bare = "#9aa3a8"
    colors = np.array([*mesh.paint.colors, bare])[mesh.paint.of_triangle]
    write_ply(mesh, file, colors.tolist())
