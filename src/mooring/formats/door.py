"""Reading and writing by the suffix of the file."""

from __future__ import annotations

from collections.abc import Callable
from os import PathLike
from pathlib import Path

from mooring.errors import InputError
from mooring.formats.document import load_document
from mooring.formats.urdf import read_urdf, write_urdf
from mooring.model import Robot

READABLE: dict[str, Callable[[Path], Robot]] = {
    ".yaml": load_document,
    ".yml": load_document,
    ".urdf": read_urdf,
}
WRITABLE: dict[str, Callable[[Robot, Path], list[str]]] = {".urdf": write_urdf}


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


def write(robot: Robot, file: Path) -> list[str]:
    """Write a robot in the format of the file's suffix; see `Robot.write`."""
    writer = WRITABLE.get(file.suffix.lower())
    if writer is None:
        known = ", ".join(WRITABLE)
        raise InputError(f"{file}: cannot write this format; writable are files ending in {known}")
    return writer(robot, file)
