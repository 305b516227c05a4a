"""A robot in a posture as one mesh: STL, OBJ, PLY."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from mooring.cad import Mesh
from mooring.errors import InputError
from mooring.files import write_text
from mooring.formats.scenes.ply import write_ply
from mooring.formats.scenes.posed import Posture, one_mesh, visible
from mooring.formats.scenes.stl import write_stl
from mooring.model import Robot


def write_mesh(robot: Robot, file: Path, posture: Posture = None) -> list[str]:
    """Write a robot's visible geometry in a posture, in metres, z up.

    Returns:
        What the format cannot carry, a sentence each.

    Raises:
        InputError: the robot shows nothing.
    """
    mesh, colors = one_mesh(robot, posture)
    if not len(mesh.faces):
        raise InputError(f"{file}: {robot.name} shows nothing that could be written")
    suffix = file.suffix.lower()
    lost = ["a mesh holds one posture, and no links, joints or masses"]
    if suffix == ".stl":
        write_stl(mesh, file)
        return [*lost, "STL has no colors and no unit; the numbers are metres"]
    if suffix == ".ply":
        write_ply(mesh, file, colors)
        return [*lost, "PLY has no unit; the numbers are metres"]
    _write_obj(robot, mesh, colors, file)
    return [*lost, "OBJ has no unit; the numbers are metres"]


def _write_obj(robot: Robot, mesh: Mesh, colors: list[str], file: Path) -> None:
    """An object for each part, and the materials in a file beside."""
    library = file.with_suffix(".mtl")
    lines = [f"# {robot.name}, metres, z up", f"mtllib {library.name}"]
    lines += [f"v {x:.9g} {y:.9g} {z:.9g}" for x, y, z in mesh.vertices]
    first = 0
    for item in visible(robot):
        lines.append(f"o {item.name}")
        count = len(item.mesh.faces)
        last = ""
        for index in first + np.argsort(np.array(colors[first : first + count]), kind="stable"):
            if colors[index] != last:
                last = colors[index]
                lines.append(f"usemtl color_{last.lstrip('#')}")
            a, b, c = mesh.faces[index] + 1
            lines.append(f"f {a} {b} {c}")
        first += count
    write_text(file, "\n".join(lines) + "\n")
    materials = []
    for color in sorted(set(colors)):
        r, g, b = (int(color[k : k + 2], 16) / 255 for k in (1, 3, 5))
        materials.append(f"newmtl color_{color.lstrip('#')}\nKd {r:.4f} {g:.4f} {b:.4f}\n")
    write_text(library, "\n".join(materials))
