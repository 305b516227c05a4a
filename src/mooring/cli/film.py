"""mooring film: a film of a run that was recorded, or of a robot's joints through their ranges."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from mooring.cli.options import AllowOutside, Search, Size, ViewFrom
from mooring.cli.outputs import to_write
from mooring.cli.reading import read_robot
from mooring.cli.terminal import busy, print_json, wrote


def film(
    file: Annotated[
        Path,
        typer.Argument(
            metavar="RECORDING_OR_ROBOT",
            help="The folder of a run, or a robot: then every joint goes through its range.",
        ),
    ],
    output: Annotated[
        Path, typer.Option("--output", "-o", callback=to_write, help=".mp4, .webp or .gif.")
    ],
    speed: Annotated[float, typer.Option(help="0.1 is ten times slower than it happened.")] = 1.0,
    view: ViewFrom = "corner",
    follow: Annotated[
        str | None, typer.Option(metavar="LINK", help="Keep this link where it is.")
    ] = None,
    turn: Annotated[str, typer.Option(help="Go round it meanwhile, e.g. '20 deg/s'.")] = "0 deg/s",
    labelled: Annotated[
        list[str] | None,
        typer.Option("--say", metavar="JOINT", help="Tell its position; may be given again."),
    ] = None,
    size: Size = "960x600",
    allow_outside: AllowOutside = False,
    search: Search = None,
) -> None:
    """Film a recording, or the robot's joints going through their ranges."""
    from mooring.cli.picture import size_of, view_of
    from mooring.drawing.exercise import draw_film
    from mooring.drawing.filming import Filming
    from mooring.drawing.runs import draw_run
    from mooring.exercising import exercise
    from mooring.simulation import is_run, read_run
    from mooring.units import to_si

    width, height = size_of(size)
    # Video has colors for squares of four pixels.
    filming = Filming(
        speed, view_of(view), follow, to_si(turn, "angular velocity"), tuple(labelled or ()),
        (width - width % 2, height - height % 2),
    )  # fmt: skip
    if is_run(file):
        with busy(f"reading {file.name}"):
            scene, recording = read_run(file)
        with busy("filming"):
            draw_run(scene.robot, recording, output, filming=filming)
    else:
        with busy(f"exercising {file.name}"):
            done = exercise(read_robot(file, allow_outside, search))
        with busy("filming"):
            draw_film(done, output, filming)
    print_json({"file": str(output)})
    wrote(output)
