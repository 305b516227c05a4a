"""The way out of the description: formats, which know robots, say here how they are written.

So `robot.write()` stands where users look for it, and the description knows no formats.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from mooring.errors import ModelError

if TYPE_CHECKING:
    from mooring.model.robot import Robot

Posture = str | Mapping[str, float | str] | None
Writer = Callable[["Robot", Path, Posture, bool], list[str]]
_writers: list[Writer] = []


def provide(writer: Writer) -> None:
    """Say what writes robots."""
    _writers[:] = [writer]


def write(robot: Robot, file: Path, posture: Posture, copy_meshes: bool) -> list[str]:
    """Write a robot by what was provided; see `Robot.write`."""
    if not _writers:
        raise ModelError("no format is there to write with; import mooring first")
    return _writers[0](robot, file, posture, copy_meshes)
