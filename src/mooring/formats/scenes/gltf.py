"""A robot as glTF 2.0 binary: links as nodes, one mesh a distinct part, a node a frame.

Khronos Group, glTF 2.0 Specification.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from mooring.errors import InputError
from mooring.files import write_whole
from mooring.formats.scenes.glb import FLOAT, Glb, by_color, quaternions, see_through
from mooring.formats.scenes.posed import PosedMesh, Posture, poses, visible
from mooring.geometry import Array, inverse
from mooring.model import Robot
from mooring.model.structure import depth_first, roots

_Y_UP = [-0.7071067811865476, 0.0, 0.0, 0.7071067811865476]
"""The quaternion that turns z up to y up, glTF's convention."""


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
        stream.write(content.glb.content())
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
    """The file as it grows."""

    def __init__(self, robot: Robot, items: list[PosedMesh], where: dict[str, Array]) -> None:
        self.robot = robot
        self.glb = Glb()
        self.mesh_numbers: dict[tuple[int, str], int] = {}
        self.link_nodes = self._add_nodes(items, where)

    def _add_nodes(self, items: list[PosedMesh], where: dict[str, Array]) -> dict[str, int]:
        robot, glb = self.robot, self.glb
        root = roots(robot)[0]
        glb.nodes.append({"name": robot.name, "rotation": _Y_UP, "children": []})
        number = {root: glb.node(root, where[root], 0)}
        for joint in depth_first(robot):
            place = inverse(where[joint.parent]) @ where[joint.child]
            number[joint.child] = glb.node(joint.child, place, number[joint.parent])
        for item in items:
            glb.node(item.name, item.on_link, number[item.link], mesh=self._mesh(item))
        frames = robot.link_frames()
        for name, frame in robot.frames.items():
            glb.node(name, frame.at.in_link(frames[frame.link]), number[frame.link])
        return number

    def _mesh(self, item: PosedMesh) -> int:
        color = see_through(item.color, item.opacity)
        key = (id(item.mesh), color)
        if key not in self.mesh_numbers:
            positions = self.glb.points(item.mesh.vertices)
            primitives = [
                {
                    "attributes": {"POSITION": positions},
                    "indices": self.glb.indices(item.mesh.faces[chosen]),
                    "material": self.glb.material(color),
                }
                for color, chosen in by_color(item.mesh, color)
            ]
            self.mesh_numbers[key] = self.glb.mesh(item.name, primitives)
        return self.mesh_numbers[key]

    def animate(self, motion: Motion) -> None:
        """Let the links that move against their parents move."""
        glb = self.glb
        root = roots(self.robot)[0]
        parents = {joint.child: joint.parent for joint in self.robot.joints.values()}
        times = motion.times.astype("<f4")
        accessor = {
            "componentType": FLOAT, "type": "SCALAR", "count": len(times),
            "min": [float(times[0])], "max": [float(times[-1])],
        }  # fmt: skip
        clock = glb.accessor(times, accessor)
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
                ("rotation", quaternions(place), "VEC4"),
            ):
                accessor = {"componentType": FLOAT, "type": kind, "count": len(values)}
                output = glb.accessor(np.ascontiguousarray(values, dtype="<f4"), accessor)
                channels.append({"sampler": len(samplers), "target": {"node": node, "path": path}})
                samplers.append({"input": clock, "output": output, "interpolation": "LINEAR"})
        if channels:
            glb.animations.append({"name": "motion", "samplers": samplers, "channels": channels})
