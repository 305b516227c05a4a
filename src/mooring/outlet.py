"""The doors upward: what writes robots, and what shows things in a notebook, say here that they do.

So `robot.write()` stands where users look for it, and the description knows no formats; and what
is computed shows itself in a notebook, and knows nothing of pictures.
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
Shower = Callable[[object], str | None]
_writers: list[Writer] = []
_showers: list[Shower] = []


def provide(writer: Writer, shower: Shower) -> None:
    """Say what writes robots, and what shows things."""
    _writers[:] = [writer]
    _showers[:] = [shower]


def write(robot: Robot, file: Path, posture: Posture, copy_meshes: bool) -> list[str]:
    """Write a robot by what was provided; see `Robot.write`."""
    if not _writers:
        raise ModelError("no format is there to write with; import mooring first")
    return _writers[0](robot, file, posture, copy_meshes)


class Shown:
    """What shows itself in a notebook, if there is something to show besides its line."""

    def _repr_html_(self) -> str | None:
        return _showers[0](self) if _showers else None
