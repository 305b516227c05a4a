"""Where meshes are read from, so that a description written later can name the same files."""

from __future__ import annotations

import shutil
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from mooring.cad.meshes.conventions import UNITLESS
from mooring.files import true_path
from mooring.model import MeshShape, PlacedShape, Robot
from mooring.model.robot.copying import copied
from mooring.model.shapes import MeshFile
from mooring.units import to_si


def mesh_file(
    path: Path,
    *,
    address: str = "",
    unit: str | None = None,
    scale: Sequence[float] | None = None,
) -> MeshFile | None:
    """The file of a mesh as others can name it; None where they would read it otherwise.

    Args:
        path: where it was found.
        address: how it was named, if not by its path.
        unit: the length its number 1 was taken for, where somebody said so.
        scale: what its coordinates were multiplied by besides.
    """
    if unit is not None and path.suffix.lower() not in UNITLESS:
        # What the file says was overruled, which no other reader would know.
        return None
    own = 1.0 if unit is None else to_si(f"1 {unit}", "length")
    x, y, z = (own * factor for factor in (scale or (1.0, 1.0, 1.0)))
    return MeshFile(path, address, (x, y, z))


def with_meshes_beside(robot: Robot, file: Path) -> Robot:
    """The robot with copies of its mesh files, in a folder beside a file that will be written.

    Colors of OBJ files, which stand in files of their own, go along.
    """
    folder = file.with_name(f"{file.stem}_meshes")
    names: dict[Path, str] = {}

    def moved(placed: Any) -> Any:
        shape = placed.shape if isinstance(placed, PlacedShape) else None
        if not isinstance(shape, MeshShape) or shape.file is None or not shape.file.path.is_file():
            return placed
        path = true_path(shape.file.path)
        if path not in names:
            names[path] = _free(path, set(names.values()))
            folder.mkdir(parents=True, exist_ok=True)
            shutil.copy(path, folder / names[path])
            colors = path.with_suffix(".mtl")
            if path.suffix.lower() == ".obj" and colors.is_file():
                shutil.copy(colors, folder / colors.name)
        origin = replace(shape.file, path=folder / names[path], address="")
        return replace(placed, shape=replace(shape, file=origin))

    result = copied(robot)
    for link in result.links.values():
        for field in ("visuals", "shapes", "collision"):
            held = getattr(link, field)
            if held:
                link.__dict__[field] = tuple(map(moved, held))
    result.note_change()
    return result


def _free(path: Path, taken: set[str]) -> str:
    name, number = path.name, 1
    while name in taken:
        number += 1
        name = f"{path.stem}_{number}{path.suffix}"
    return name
