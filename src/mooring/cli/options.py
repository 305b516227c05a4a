"""Arguments and options that several commands have, each in one wording."""

from __future__ import annotations

import inspect
from collections.abc import Callable
from functools import wraps
from pathlib import Path
from typing import Annotated, Any

import typer

from mooring.cli.manner import be_quiet, manner, speak_json, tell_all
from mooring.cli.outputs import to_fill

_DESCRIBED = "A document (.yaml) or a URDF file (.urdf); - reads standard input."

RobotFile = Annotated[Path, typer.Argument(metavar="ROBOT", help=_DESCRIBED)]
SceneFile = Annotated[Path, typer.Argument(metavar="ROBOT_OR_SCENE", help=_DESCRIBED)]
AllowOutside = Annotated[
    bool,
    typer.Option(
        "--allow-outside",
        help="Let a document take CAD, meshes and documents from outside its folder.",
    ),
]
Search = Annotated[
    list[Path] | None,
    typer.Option(metavar="FOLDER", help="For URDF: where to look for meshes; may be given again."),
]
CopyMeshes = Annotated[
    bool,
    typer.Option("--copy-meshes", help="Copy mesh files beside OUT, not name them where they are."),
]
Posture = Annotated[
    str | None, typer.Option(metavar="NAME", help="The posture it stands in, or begins in.")
]
Folder = Annotated[
    Path | None,
    typer.Option("--output", "-o", callback=to_fill, help="A folder for what comes out."),
]
Film = Annotated[bool, typer.Option("--film", help="Make a film as well.")]
Seed = Annotated[int | None, typer.Option(min=0, help="Of everything random.")]
Unit = Annotated[
    str | None, typer.Option(help="For mesh files: what the number 1 stands for, e.g. mm.")
]
ViewFrom = Annotated[
    str,
    typer.Option(
        help="corner, front, back, left, right, top, bottom, or azimuth,elevation in degrees."
    ),
]
Size = Annotated[str, typer.Option(help="Width x height in pixels.")]
Force = Annotated[
    bool, typer.Option("--force", help="Write there although something else is there already.")
]
Address = Annotated[
    str, typer.Option(help="Listen here; whoever connects needs the printed address.")
]
Port = Annotated[
    int | None, typer.Option(min=0, max=65535, help="To listen at; a free one if not given.")
]
Json = Annotated[
    bool, typer.Option("--json", callback=speak_json, help="Answer as JSON, for programs.")
]
Quiet = Annotated[
    bool,
    typer.Option("--quiet", "-q", callback=be_quiet, help="Nothing beside answer and complaints."),
]
Verbose = Annotated[
    bool,
    typer.Option("--verbose", callback=tell_all, help="Beside it, what is done, and when."),
]


def with_manner(command: Callable[..., None]) -> Callable[..., None]:
    """A command with the options that all have: `--json`, `--quiet`, `--verbose`."""

    @wraps(command)
    def called(**said: Any) -> None:
        # Their callbacks have told the manner.
        if manner.as_json and manner.data_out:
            raise typer.BadParameter("standard output holds a file already", param_hint="--json")
        command(**{name: value for name, value in said.items() if name not in added})

    added = {"json": Json, "quiet": Quiet, "verbose": Verbose}
    own = inspect.signature(command, eval_str=True)
    keyword = inspect.Parameter.KEYWORD_ONLY
    more = [inspect.Parameter(n, keyword, default=False, annotation=a) for n, a in added.items()]
    called.__signature__ = own.replace(  # type: ignore[attr-defined]
        parameters=[p.replace(kind=keyword) for p in own.parameters.values()] + more
    )
    called.__annotations__ = {**inspect.get_annotations(command, eval_str=True), **added}
    return called
