"""Reading and writing by the suffix of the file."""

from __future__ import annotations

from collections.abc import Callable
from os import PathLike
from pathlib import Path

from mooring.errors import InputError
from mooring.formats.document import load_document
from mooring.formats.graph import write_dot, write_svg
from mooring.formats.resolved import write_json
from mooring.formats.scenes.gltf import write_glb
from mooring.formats.scenes.meshes import write_mesh
from mooring.formats.scenes.posed import Posture
from mooring.formats.urdf import read_urdf, write_urdf
from mooring.model import Robot

READABLE: dict[str, Callable[[Path], Robot]] = {
    ".yaml": load_document,
    ".yml": load_document,
    ".urdf": read_urdf,
}
DESCRIPTIONS: dict[str, Callable[[Robot, Path], list[str]]] = {
    ".urdf": write_urdf,
    ".json": write_json,
    ".dot": write_dot,
    ".svg": write_svg,
}
SCENES: dict[str, Callable[[Robot, Path, Posture], list[str]]] = {
    ".glb": write_glb,
    ".stl": write_mesh,
    ".obj": write_mesh,
    ".ply": write_mesh,
}
WRITABLE = (*DESCRIPTIONS, *SCENES)


def read(file: str | PathLike[str], *, allow_outside: bool = False) -> Robot:
    """Read a robot from a document (.yaml) or a URDF file (.urdf).

    Args:
        file: which.
        allow_outside: whether a document may include others from outside its folder.

    Raises:
        InputError: the file is missing, of another format, or cannot be understood; the message
            has file and line.

    Example:
        >>> from mooring import demo
        >>> read(demo.LINE_TENDER.document).name
        'line_tender'
    """
    path = Path(file)
    reader = READABLE.get(path.suffix.lower())
    if reader is None:
        known = ", ".join(READABLE)
        raise InputError(f"{path}: not a robot description; readable are files ending in {known}")
    if reader is load_document:
        return load_document(path, allow_outside=allow_outside)
    return reader(path)


def write(robot: Robot, file: Path, posture: Posture = None) -> list[str]:
    """Write a robot in the format of the file's suffix; see `Robot.write`."""
    suffix = file.suffix.lower()
    if suffix in SCENES:
        return SCENES[suffix](robot, file, posture)
    if suffix not in DESCRIPTIONS:
        known = ", ".join(WRITABLE)
        raise InputError(f"{file}: cannot write this format; writable are files ending in {known}")
    if posture is not None:
        shown = ", ".join(SCENES)
        raise InputError(f"{file}: a description has no posture; {shown} do")
    return DESCRIPTIONS[suffix](robot, file)
