"""A robot's visible geometry in a posture."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from mooring.cad import Mesh
from mooring.geometry import Array, apply
from mooring.model import Robot

PLAIN = "#9aa3a8"
"""The color of what has none."""

Posture = str | Mapping[str, float | str] | None


@dataclass(frozen=True, eq=False)
class PosedMesh:
    """One visible mesh.

    Attributes:
        link: the link it is on.
        name: of the part.
        mesh: in its own coordinates; equal parts share one.
        on_link: its place on the link, (4, 4).
        color: "#rrggbb".
        opacity: from 0, not to be seen, to 1.
    """

    link: str
    name: str
    mesh: Mesh
    on_link: Array
    color: str
    opacity: float = 1.0


def visible(robot: Robot) -> list[PosedMesh]:
    """Everything that a robot shows.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    frames = robot.link_frames()
    return [
        PosedMesh(
            name,
            shape.name or name,
            shape.shape.mesh,
            shape.in_link(frames[name]),
            shape.color or PLAIN,
            shape.opacity,
        )
        for name, link in robot.links.items()
        for shape in link.shown(robot.materials)
    ]


def poses(robot: Robot, posture: Posture) -> dict[str, Array]:
    """The pose of each link in the world, (4, 4) by name.

    Raises:
        ModelError: no such posture or joint.
        RunError: a loop cannot be closed in it.
        UnsoundRobotError: the robot is no tree.
    """
    if posture is None:
        # At zero no loop needs closing, and no kernel compiling.
        return robot.link_frames()
    from mooring.kinematics import configuration, link_poses

    tree = robot.tree()
    found = link_poses(tree, configuration(robot, posture, tree))
    return dict(zip(tree.links, found, strict=True))


def one_mesh(robot: Robot, posture: Posture) -> tuple[Mesh, list[str]]:
    """All visible triangles in the world, and the color of each."""
    where = poses(robot, posture)
    vertices, faces, colors, count = [], [], [], 0
    for item in visible(robot):
        vertices.append(apply(where[item.link] @ item.on_link, item.mesh.vertices))
        faces.append(item.mesh.faces + count)
        count += len(item.mesh.vertices)
        paint = item.mesh.paint
        if paint is None:
            colors += [item.color] * len(item.mesh.faces)
        else:
            colors += [item.color if k < 0 else paint.colors[k] for k in paint.of_triangle]
    if not vertices:
        return Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64)), []
    return Mesh(np.concatenate(vertices), np.concatenate(faces)), colors
