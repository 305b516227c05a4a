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
from mooring.files import write_text
from mooring.formats.scenes.beside import MeshesBeside
from mooring.formats.scenes.ply import write_ply
from mooring.geometry import Array, rpy_from_rotation
from mooring.model import Box, Hull, Inertia, Joint, MeshShape, PlacedShape, Robot, Sphere
from mooring.model.fields import Described
from mooring.model.placement import Placement


def write_json(robot: Robot, file: Path) -> list[str]:
    """Write the resolved description.

    Returns:
        What it cannot carry, a sentence each.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    meshes = MeshesBeside(file, ".ply")
    described = resolved(robot, meshes)
    meshes.write(_write_mesh)
    write_text(file, json.dumps(described, indent=1, ensure_ascii=False) + "\n")
    computed = [name for name, entry in described["links"].items() if "inertia" in entry]
    losses = []
    if computed:
        losses.append("masses are given now: from what they were computed is left out")
    if any(link.parts for link in robot.links.values()):
        losses.append("parts are shapes now: from which CAD they came is left out")
    return losses


def resolved(robot: Robot, meshes: MeshesBeside) -> dict[str, Any]:
    """The description as plain values, with the keys of a document.

    Args:
        robot: a sound tree.
        meshes: where its meshes will be.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    frames = robot.link_frames()
    sections = {
        "materials": {
            name: _entry(material)
            for name in dict.fromkeys(
                link.surface or link.material for link in robot.links.values()
            )
            if name is not None and (material := robot.materials.get(name)) is not None
        },
        "links": {name: _link(robot, name, frames[name], meshes) for name in robot.links},
        "frames": {
            name: {"link": f.link, "role": f.role, "at": _place(f.at, frames[f.link])}
            for name, f in robot.frames.items()
        },
        "joints": {name: _joint(joint, frames) for name, joint in robot.joints.items()},
        "couplings": _plain(robot.couplings),
        "closures": {
            name: {**_entry(closure), "at": _place(closure.at, frames[closure.between[0]])}
            for name, closure in robot.closures.items()
        },
        "springs": {
            name: {**_entry(spring), "rest_length": float(robot.tree().springs.length[k])}
            for k, (name, spring) in enumerate(robot.springs.items())
        },
        "allowances": [
            {"between": list(pair), "because": why} for pair, why in robot.allowances.items()
        ],
        "motors": _plain(robot.motors),
        "sensors": _plain(robot.sensors),
        "postures": robot.postures,
        "checks": {k: v for k, v in _entry(robot.checks).items() if v},
        "motions": {name: [_entry(s) for s in steps] for name, steps in robot.motions.items()},
    }
    head = {"mooring": 1, "name": robot.name, "base": robot.base}
    return {**head, **{key: section for key, section in sections.items() if section}}


def _link(robot: Robot, name: str, frame: Array, meshes: MeshesBeside) -> dict[str, Any]:
    link = robot.links[name]
    inertia = robot.inertia(name, frame)
    entry = {} if inertia is None else _mass(inertia)
    visuals = [_shape(shape, frame, meshes) for shape in link.visuals(robot.materials)]
    collisions = [_shape(shape, frame, meshes) for shape in link.collisions]
    if visuals:
        entry["visuals"] = visuals
    if collisions:
        entry["collision"] = collisions
    elif link.collision_rules is not None:
        entry["collision"] = "none"
    touches = link.surface or link.material
    if touches in robot.materials:
        entry["surface"] = touches
    return entry


def _mass(inertia: Inertia) -> dict[str, Any]:
    t = inertia.tensor
    entry: dict[str, Any] = {
        "mass": inertia.mass,
        "centre": inertia.centre.tolist(),
        "inertia": [t[0, 0], t[1, 1], t[2, 2], t[0, 1], t[0, 2], t[1, 2]],
    }
    if inertia.source == "assumed":
        entry["assumed"] = True
    return entry


def _joint(joint: Joint, frames: Mapping[str, Array]) -> dict[str, Any]:
    entry = {**_entry(joint), "at": _place(joint.at, frames[joint.parent])}
    if not joint.has_axis:
        return {key: entry[key] for key in ("type", "parent", "child", "at")}
    return entry


def _plain(items: Mapping[str, Described]) -> dict[str, Any]:
    return {name: _entry(item) for name, item in items.items()}


def _entry(item: Described) -> dict[str, Any]:
    """What was said of an item, without what is not the user's to say."""
    values: dict[str, Any] = item.model_dump(mode="json", exclude={"at"}, exclude_none=True)
    return values


def _place(place: Placement, frame: Array) -> dict[str, Any]:
    return _numbers(place.in_link(frame))


def _numbers(matrix: Array) -> dict[str, Any]:
    turn = rpy_from_rotation(matrix[:3, :3]) + 0.0
    return {"xyz": (matrix[:3, 3] + 0.0).tolist(), "rpy": turn.tolist()}


def _shape(placed: PlacedShape, frame: Array, meshes: MeshesBeside) -> dict[str, Any]:
    shape = placed.shape
    what: Any
    if isinstance(shape, MeshShape | Hull):
        what = meshes.path(shape)
    elif isinstance(shape, Box):
        what = list(shape.size)
    elif isinstance(shape, Sphere):
        what = shape.radius
    else:
        what = {"radius": shape.radius, "length": shape.length}
    entry = {shape.kind: what, "at": _numbers(placed.in_link(frame))}
    if placed.name:
        entry["name"] = placed.name
    if placed.color is not None:
        entry["color"] = placed.color
    return entry


def _write_mesh(mesh: Mesh, file: Path) -> None:
    if mesh.paint is None:
        write_ply(mesh, file)
        return
    bare = "#9aa3a8"
    colors = np.array([*mesh.paint.colors, bare])[mesh.paint.of_triangle]
    write_ply(mesh, file, colors.tolist())
