"""What a command is about: a file, or standard input, read, with what was lost said beside."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING

import typer

from mooring.cli.outputs import STANDARD
from mooring.cli.terminal import beside
from mooring.errors import InputError

if TYPE_CHECKING:
    from mooring.model import Robot
    from mooring.model.scene import Scene

_TOLD = 12


def source(file: Path) -> tuple[Path, str | None]:
    """A file and its text, where that does not stand in it: `-` is standard input.

    What it names is looked for from the folder one is in.

    Raises:
        InputError: nothing comes in, or no text.
    """
    if file != STANDARD:
        return file, None
    try:
        text = sys.stdin.buffer.read().decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputError(f"standard input: not UTF-8 text (byte {error.start})") from None
    if not text.strip():
        raise InputError("standard input: nothing came in")
    return Path("stdin.urdf" if text.lstrip().startswith("<") else "stdin.yaml"), text


def read_robot(file: Path, allow_outside: bool, search: list[Path] | None) -> Robot:
    """The robot that a command is about."""
    from mooring.formats import read

    path, text = source(file)
    robot = read(path, allow_outside=allow_outside, search=search or (), text=text)
    tell_losses(robot)
    return robot


def read_anything(file: Path, allow_outside: bool, search: list[Path] | None) -> Scene:
    """The scene that a command is about; a robot by itself is one, too."""
    from mooring.formats import read_scene

    path, text = source(file)
    scene = read_scene(path, allow_outside=allow_outside, search=search or (), text=text)
    tell_losses(scene.robot)
    return scene


def tell_losses(robot: Robot) -> None:
    """Say beside the answer what could not be read, or was left out."""
    told = [note for note in robot.notes if note.code or note.shown]
    for note in told[:_TOLD]:
        beside("read: {}", note)
    if len(told) > _TOLD:
        beside("read: and {} more such notes; mooring check lists all", len(told) - _TOLD)


def answer_for(patches: list[str]) -> None:
    """Say what was patched of a robot that is no tree, and make the answer no."""
    for words in patches:
        beside("patched: {}", words)
    if patches:
        beside("it is no tree; mooring check says what is wrong")
        raise typer.Exit(1)
