"""The resolved description as JSON: every number in SI, nothing left to be looked up."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from mooring.files import write_text
from mooring.geometry import rpy_from_rotation
from mooring.model import Hull, MeshShape, PlacedShape, Robot


def write_json(robot: Robot, file: Path) -> list[str]:
    """Write the resolved description, for programs.

    Returns:
        What it cannot carry, a sentence each.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    write_text(file, json.dumps(resolved(robot), indent=1, ensure_ascii=False) + "\n")
    return ["meshes are named, and their triangles left out; export glTF or URDF for them"]


def resolved(robot: Robot) -> dict[str, Any]:
    """The description as plain values in SI; keys say the units.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    frames = robot.link_frames()
    links = {}
    for name, link in robot.links.items():
        inertia = robot.inertia(name, frames[name])
        links[name] = {
            "frame_in_cad": frames[name].tolist(),
            "parts": [part.name for part in link.parts],
            "inertia": None
            if inertia is None
            else {
                "mass_kg": inertia.mass,
                "centre_m": inertia.centre.tolist(),
                "tensor_kg_m2": inertia.tensor.tolist(),
                "source": inertia.source,
                "detail": inertia.detail,
            },
            "collision": [_shape(shape, shape.in_link(frames[name])) for shape in link.collisions],
        }
    joints = {}
    for name, joint in robot.joints.items():
        place = joint.at.in_link(frames[joint.parent])
        joints[name] = {
            "type": joint.type,
            "parent": joint.parent,
            "child": joint.child,
            "xyz_m": place[:3, 3].tolist(),
            "rpy_rad": rpy_from_rotation(place[:3, :3]).tolist(),
            "axis": list(joint.axis),
            "limits_si": joint.limits.model_dump(exclude={"motion"}),
            "damping_si": joint.damping,
            "friction_si": joint.friction,
        }
    return {
        "robot": robot.name,
        "coordinates": robot.coordinates,
        "links": links,
        "joints": joints,
        "couplings": {n: c.model_dump() for n, c in robot.couplings.items()},
        "closures": {
            n: {
                "kind": c.kind,
                "between": list(c.between),
                "on_first": c.at.in_link(frames[c.between[0]]).tolist(),
                "axis": list(c.axis),
            }
            for n, c in robot.closures.items()
        },
        "motors": {n: m.model_dump() for n, m in robot.motors.items()},
        "sensors": {n: s.model_dump() for n, s in robot.sensors.items()},
        "frames": {
            n: {"link": f.link, "role": f.role, "on_link": f.at.in_link(frames[f.link]).tolist()}
            for n, f in robot.frames.items()
        },
        "postures_si": robot.postures,
        "motions": {n: [s.model_dump() for s in steps] for n, steps in robot.motions.items()},
    }


def _shape(placed: PlacedShape, on_link: Any) -> dict[str, Any]:
    shape = placed.shape
    values: dict[str, Any] = {"kind": shape.kind, "on_link": on_link.tolist()}
    if isinstance(shape, MeshShape):
        return {**values, "mesh": shape.name}
    if isinstance(shape, Hull):
        return {**values, "corners_m": shape.mesh.vertices.tolist()}
    numbers = {name: list(v) if isinstance(v, tuple) else v for name, v in vars(shape).items()}
    return {**values, "size_m": numbers}
