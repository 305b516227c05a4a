"""Where meshes are read from, so that a description written later can name the same files."""

from __future__ import annotations

import shutil
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from mooring.cad.meshes import companions
from mooring.cad.meshes.conventions import UNITLESS
from mooring.files import true_path, write_together
from mooring.model import PlacedShape, Robot
from mooring.model.naming import free_name
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

    They are all copied, or none.

    What a mesh file refers to goes along, at the same place beside it. Files from different folders
    stay in different folders, so that none is taken for another of the same name.
    """
    folder = file.with_name(f"{file.stem}_meshes")
    homes: dict[Path, Path] = {}
    copies: dict[Path, Path] = {}

    def copy_of(path: Path) -> Path:
        if path not in copies:
            if path.parent not in homes:
                names = {home.name for home in homes.values()}
                homes[path.parent] = (
                    folder / free_name(path.parent.name, names) if homes else folder
                )
            for one in (path, *companions(path)):
                copies[one] = homes[path.parent] / one.relative_to(path.parent)
        return copies[path]

    def moved(placed: Any) -> Any:
        shape = placed.shape if isinstance(placed, PlacedShape) else None
        if shape is None or shape.file is None or not shape.file.path.is_file():
            return placed
        copied_to = copy_of(true_path(shape.file.path))
        file = replace(shape.file, path=copied_to, address="")
        return replace(placed, shape=replace(shape, file=file))  # type: ignore[type-var]

    result = copied(robot)
    for link in result.links.values():
        for field in ("visuals", "shapes", "collision"):
            held = getattr(link, field)
            if held:
                link.__dict__[field] = tuple(map(moved, held))
    result.note_change()
    if copies:
        with write_together(folder) as staged:
            for path, new in copies.items():
                target = staged / new.relative_to(folder)
                target.parent.mkdir(parents=True, exist_ok=True)
                shutil.copy(path, target)
    return result
