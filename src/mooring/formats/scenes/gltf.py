"""A robot as glTF 2.0 binary: links as nodes, one mesh a distinct part, a node a frame.

Khronos Group, glTF 2.0 Specification.
"""

from __future__ import annotations

import json
import struct
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from mooring.cad import Mesh
from mooring.errors import InputError
from mooring.files import write_whole
from mooring.formats.scenes.posed import PosedMesh, Posture, poses, visible
from mooring.geometry import Array, inverse
from mooring.model import Robot
from mooring.model.structure import depth_first, roots

_Y_UP = [-0.7071067811865476, 0.0, 0.0, 0.7071067811865476]
"""The quaternion that turns z up to y up, glTF's convention."""
_FLOAT, _UNSIGNED = 5126, 5125
_ARRAY_BUFFER, _ELEMENT_BUFFER = 34962, 34963


@dataclass(frozen=True, eq=False)
class Motion:
    """How links move.

    Attributes:
        times: (r,) [s], from zero on.
        poses: of each link in the world, (r, 4, 4) by name.
    """

    times: Array
    poses: Mapping[str, Array]


def write_glb(
    robot: Robot, file: Path, posture: Posture = None, motion: Motion | None = None
) -> list[str]:
    """Write a robot's visible geometry and its tree of links.

    Args:
        robot: what to write.
        file: .glb.
        posture: how it stands.
        motion: an animation; it begins in its first pose.

    Returns:
        What glTF cannot carry, a sentence each.

    Raises:
        InputError: the robot shows nothing.
        UnsoundRobotError: the robot is no tree.
    """
    items = visible(robot)
    if not items:
        raise InputError(f"{file}: {robot.name} shows nothing that could be written")
    where = poses(robot, posture)
    if motion is not None:
        where = {name: found[0] for name, found in motion.poses.items()}
    content = _Content(robot, items, where)
    if motion is not None:
        content.animate(motion)
    with write_whole(file) as stream:
        stream.write(content.glb())
    what = "one posture" if motion is None else "one motion"
    lost = [f"glTF holds geometry in {what}; joint axes, limits and masses are left out"]
    for what, there in (
        ("collision shapes", any(link.collision_rules for link in robot.links.values())),
        ("motors", robot.motors),
        ("sensors", robot.sensors),
        ("closures", robot.closures),
        ("postures", robot.postures),
    ):
        if there:
            lost.append(f"glTF has no {what}; left out")
    return lost


class _Content:
    """The JSON tree and the binary buffer as they grow."""

    def __init__(self, robot: Robot, items: list[PosedMesh], where: dict[str, Array]) -> None:
        self.robot = robot
        self.data = bytearray()
        self.views: list[dict[str, Any]] = []
        self.accessors: list[dict[str, Any]] = []
        self.materials: dict[str, int] = {}
        self.meshes: list[dict[str, Any]] = []
        self.mesh_numbers: dict[tuple[int, str], int] = {}
        self.nodes: list[dict[str, Any]] = []
        self.animations: list[dict[str, Any]] = []
        self.link_nodes: dict[str, int] = {}
        self._add_nodes(items, where)

    def _add_nodes(self, items: list[PosedMesh], where: dict[str, Array]) -> None:
        robot = self.robot
        root = roots(robot)[0]
        self.nodes.append({"name": robot.name, "rotation": _Y_UP, "children": []})
        number = {root: self._node(root, where[root], 0)}
        for joint in depth_first(robot):
            place = inverse(where[joint.parent]) @ where[joint.child]
            number[joint.child] = self._node(joint.child, place, number[joint.parent])
        for item in items:
            node = self._node(item.name, item.on_link, number[item.link])
            self.nodes[node]["mesh"] = self._mesh(item)
        self.link_nodes = number
        frames = robot.link_frames()
        for name, frame in robot.frames.items():
            self._node(name, frame.at.in_link(frames[frame.link]), number[frame.link])

    def _node(self, name: str, place: Array, parent: int) -> int:
        node: dict[str, Any] = {"name": name}
        # Apart, since a node that is animated must not have a matrix.
        if np.abs(place[:3, 3]).max() > 0:
            node["translation"] = [float(value) for value in place[:3, 3]]
        if not np.array_equal(place[:3, :3], np.eye(3)):
            node["rotation"] = [float(value) for value in _quaternions(place[None])[0]]
        self.nodes.append(node)
        self.nodes[parent].setdefault("children", []).append(len(self.nodes) - 1)
        return len(self.nodes) - 1

    def _mesh(self, item: PosedMesh) -> int:
        key = (id(item.mesh), item.color)
        if key not in self.mesh_numbers:
            self.mesh_numbers[key] = len(self.meshes)
            positions = self._positions(item.mesh)
            self.meshes.append(
                {
                    "name": item.name,
                    "primitives": [
                        {
                            "attributes": {"POSITION": positions},
                            "indices": self._indices(faces),
                            "material": self._material(color),
                        }
                        for color, faces in _by_color(item)
                    ],
                }
            )
        return self.mesh_numbers[key]

    def _positions(self, mesh: Mesh) -> int:
        points = mesh.vertices.astype("<f4")
        return self._accessor(
            points,
            _ARRAY_BUFFER,
            {
                "componentType": _FLOAT,
                "type": "VEC3",
                "count": len(points),
                "min": [float(v) for v in points.min(axis=0)],
                "max": [float(v) for v in points.max(axis=0)],
            },
        )

    def _indices(self, faces: NDArray[np.int64]) -> int:
        flat = faces.astype("<u4").ravel()
        accessor = {"componentType": _UNSIGNED, "type": "SCALAR", "count": len(flat)}
        return self._accessor(flat, _ELEMENT_BUFFER, accessor)

    def animate(self, motion: Motion) -> None:
        """Let the links that move against their parents move."""
        root = roots(self.robot)[0]
        parents = {joint.child: joint.parent for joint in self.robot.joints.values()}
        times = motion.times.astype("<f4")
        clock = self._accessor(
            times,
            None,
            {
                "componentType": _FLOAT, "type": "SCALAR", "count": len(times),
                "min": [float(times[0])], "max": [float(times[-1])],
            },
        )  # fmt: skip
        samplers: list[dict[str, Any]] = []
        channels: list[dict[str, Any]] = []
        for name, node in self.link_nodes.items():
            place = motion.poses[name]
            if name != root:
                place = inverse(motion.poses[parents[name]]) @ place
            if np.abs(place - place[0]).max() < 1e-9:
                continue
            for path, values, kind in (
                ("translation", place[:, :3, 3], "VEC3"),
                ("rotation", _quaternions(place), "VEC4"),
            ):
                accessor = {"componentType": _FLOAT, "type": kind, "count": len(values)}
                output = self._accessor(np.ascontiguousarray(values, dtype="<f4"), None, accessor)
                channels.append({"sampler": len(samplers), "target": {"node": node, "path": path}})
                samplers.append({"input": clock, "output": output, "interpolation": "LINEAR"})
        if channels:
            self.animations.append({"name": "motion", "samplers": samplers, "channels": channels})

    def _accessor(self, values: NDArray[Any], target: int | None, accessor: dict[str, Any]) -> int:
        raw = values.tobytes()
        view = {"buffer": 0, "byteOffset": len(self.data), "byteLength": len(raw)}
        if target is not None:
            view["target"] = target
        self.views.append(view)
        self.data += raw
        self.accessors.append({"bufferView": len(self.views) - 1, **accessor})
        return len(self.accessors) - 1

    def _material(self, color: str) -> int:
        return self.materials.setdefault(color, len(self.materials))

    def glb(self) -> bytes:
        """The whole file."""
        tree = {
            "asset": {"version": "2.0", "generator": "Mooring"},
            "scene": 0,
            "scenes": [{"nodes": [0]}],
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


def _by_color(item: PosedMesh) -> list[tuple[str, NDArray[np.int64]]]:
    paint = item.mesh.paint
    if paint is None:
        return [(item.color, item.mesh.faces)]
    colors = [*enumerate(paint.colors), (-1, item.color)]
    found = [(color, item.mesh.faces[paint.of_triangle == k]) for k, color in colors]
    return [(color, faces) for color, faces in found if len(faces)]


def _quaternions(places: Array) -> Array:
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
    return {
        "name": f"color_{color.lstrip('#')}",
        "pbrMetallicRoughness": {
            "baseColorFactor": [*factors, 1.0],
            "metallicFactor": 0.1,
            "roughnessFactor": 0.7,
        },
    }
