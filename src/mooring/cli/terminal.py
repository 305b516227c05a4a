"""What all commands share: consoles, spinners, bars and arguments."""

from __future__ import annotations

import json
import re
import sys
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from mooring.errors import ModelError

if TYPE_CHECKING:
    from rich.console import Console
    from rich.text import Text

    from mooring.model import Robot
    from mooring.model.scene import Scene

RobotFile = Annotated[
    Path, typer.Argument(metavar="ROBOT", help="A document (.yaml) or a URDF file (.urdf).")
]
SceneFile = Annotated[
    Path,
    typer.Argument(metavar="ROBOT_OR_SCENE", help="A document (.yaml) or a URDF file (.urdf)."),
]
AllowOutside = Annotated[
    bool,
    typer.Option(
        "--allow-outside",
        help="Let a document take CAD, meshes and documents from outside its folder.",
    ),
]
Search = Annotated[
    list[Path] | None,
    typer.Option(metavar="FOLDER", help="For URDF: where to look for meshes; may be repeated."),
]
CopyMeshes = Annotated[
    bool,
    typer.Option("--copy-meshes", help="Copy mesh files beside OUT, not name them where they are."),
]
Json = Annotated[bool, typer.Option("--json", help="Answer as JSON, for programs.")]

_TOLD = 12

_SIGNS = {"+": "green4", "-": "red", "~": "dark_orange3"}
STYLES = {"error": "bold red", "warning": "dark_orange3", "note": "dark_cyan"}
"""Of severities."""


def read_robot(file: Path, allow_outside: bool, search: list[Path] | None) -> Robot:
    """The robot that a command is about."""
    from mooring.formats import read

    robot = read(file, allow_outside=allow_outside, search=search or ())
    tell_losses(robot)
    return robot


def read_anything(file: Path, allow_outside: bool, search: list[Path] | None) -> Scene:
    """The scene that a command is about; a robot by itself is one, too."""
    from mooring.formats import read_scene

    scene = read_scene(file, allow_outside=allow_outside, search=search or ())
    tell_losses(scene.robot)
    return scene


def tell_losses(robot: Robot) -> None:
    """Say beside the answer what could not be read, or was left out."""
    told = [note for note in robot.notes if note.code]
    for note in told[:_TOLD]:
        side().print(f"read: {note}", soft_wrap=True)
    if len(told) > _TOLD:
        more = f"read: and {len(told) - _TOLD} more such notes; mooring check lists all"
        side().print(more, soft_wrap=True)


def answer_for(patches: list[str]) -> None:
    """Say what was patched of a robot that is no tree, and make the answer no."""
    for words in patches:
        side().print(f"patched: {words}", soft_wrap=True)
    if patches:
        side().print("it is no tree; mooring check says what is wrong")
        raise typer.Exit(1)


@cache
def out() -> Console:
    """For answers."""
    from rich.console import Console

    # What is piped to another program or a file need not fit a window.
    width = None if sys.stdout.isatty() else 140
    return Console(highlight=False, soft_wrap=False, width=width, markup=False, emoji=False)


@cache
def side() -> Console:
    """For progress and complaints, so that answers can be piped."""
    from rich.console import Console

    return Console(stderr=True, highlight=False, markup=False, emoji=False)


def styled(template: str, *data: object) -> Text:
    """A text with styles, into which data is put as it is: nothing in it is taken for markup.

    Args:
        template: with styles such as `[bold]{}[/]`, and `{}` for each of the data.
        data: text, or anything that can be shown as text; a `Text` keeps its own styles.
    """
    from rich.text import Text

    frame = Text.from_markup(template, emoji=False)
    whole, rest = Text(), list(data)
    begin = 0
    for match in re.finditer(r"\{\}", frame.plain):
        whole.append_text(frame[begin : match.start()])
        value = rest.pop(0)
        style = next((s.style for s in frame.spans if s.start <= match.start() < s.end), "")
        piece = value if isinstance(value, Text) else Text(str(value), style)
        whole.append_text(piece)
        begin = match.end()
    whole.append_text(frame[begin:])
    if rest:
        raise ValueError(f"{len(rest)} more data than places in {template!r}")
    return whole


def strung(between: str, pieces: Iterable[Text | str]) -> Text:
    """Pieces with something between them."""
    from rich.text import Text

    return Text(between).join(Text(one) if isinstance(one, str) else one for one in pieces)


def changed(sign: str) -> Text:
    """The sign of something that is new (+), gone (-) or otherwise (~), in its color."""
    return styled(f"[{_SIGNS[sign]}]{{}}[/]", sign)


def say(template: str, *data: object) -> None:
    """Answer a line; see `styled`."""
    out().print(styled(template, *data), soft_wrap=True)


def print_json(value: Any) -> None:
    """Answer as JSON."""
    print(json.dumps(value, indent=2, ensure_ascii=False))


@contextmanager
def busy(what: str) -> Iterator[None]:
    """A spinner beside what is being done, and a bar once it is known how far it is.

    Nothing where nobody watches.
    """
    if not sys.stderr.isatty():
        yield
        return
    from rich.progress import BarColumn, MofNCompleteColumn, Progress, SpinnerColumn, TextColumn

    from mooring.announcing import progress_to

    waiting = (SpinnerColumn(), TextColumn("{task.description}", markup=False))
    with Progress(*waiting, console=side(), transient=True) as shown:
        task = shown.add_task(what, total=None)

        def advance(done: float, total: float) -> None:
            shown.columns = (*waiting, BarColumn(), MofNCompleteColumn())
            shown.update(task, completed=done, total=total)

        with progress_to(advance):
            yield


def counted(number: int, what: str) -> str:
    """A number with its noun, e.g. "1 joint" or "2 joints"."""
    return f"{number} {what}" + ("" if number == 1 else "s")


def positions_from(settings: list[str]) -> dict[str, float | str]:
    """Positions by joint from words such as `slew=30 deg`."""
    positions: dict[str, float | str] = {}
    for setting in settings:
        joint, equals, value = setting.partition("=")
        if not equals or not joint.strip() or not value.strip():
            raise ModelError(f"cannot read {setting!r}; write it as 'slew=30 deg'")
        try:
            positions[joint.strip()] = float(value)
        except ValueError:
            positions[joint.strip()] = value.strip()
    return positions
