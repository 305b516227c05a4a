"""The doors upward: what writes robots, and what shows things in a notebook, say here that they do.

So `robot.write()` stands where users look for it, and the description knows no formats; and what
is computed shows itself in a notebook, and knows nothing of pictures.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

from mooring.errors import ModelError

if TYPE_CHECKING:
    from mooring.model.robot import Robot

Posture = str | Mapping[str, float | str] | None


class View(Protocol):
    """A model in three dimensions, which a notebook's cell shows and a file keeps."""

    def save(self, file: Any) -> None:
        """Write it as one .html file."""


@dataclass(frozen=True)
class Doors:
    """What is done above, and asked for below.

    Attributes:
        write: a robot, in a format; see `Robot.write`.
        cell: what a notebook shows of something, as HTML.
        view: a robot in three dimensions; see `Robot.show`.
        advance: a bar in a notebook, with how much is done, and of how much.
    """

    write: Callable[[Robot, Path, Posture, bool], list[str]]
    cell: Callable[[object], str | None]
    view: Callable[..., View]
    advance: Callable[[float, float], None]


_provided: list[Doors] = []


def provide(doors: Doors) -> None:
    """Say who does what is asked for."""
    _provided[:] = [doors]


def write(robot: Robot, file: Path, posture: Posture, copy_meshes: bool) -> list[str]:
    """Write a robot; see `Robot.write`."""
    return _doors().write(robot, file, posture, copy_meshes)


def view(robot: Robot, **how: Any) -> View:
    """A robot in three dimensions; see `Robot.show`."""
    return _doors().view(robot, **how)


def advance(done: float, total: float) -> None:
    """Say in a notebook how far long work has come."""
    if _provided and "ipykernel" in sys.modules:
        _provided[0].advance(done, total)


def _doors() -> Doors:
    if not _provided:
        raise ModelError("this needs all of Mooring; import mooring first")
    return _provided[0]


class Shown:
    """What shows itself in a notebook, if there is something to show besides its line."""

    def _repr_html_(self) -> str | None:
        return _provided[0].cell(self) if _provided else None
