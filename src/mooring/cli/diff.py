"""mooring diff: what differs between two descriptions."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import typer

from mooring.cli.manner import manner
from mooring.cli.options import AllowOutside, Search
from mooring.cli.outputs import STANDARD, to_write, written
from mooring.cli.reading import read_anything
from mooring.cli.terminal import busy, changed, counted, hint, print_json, say, wrote

_SIGNS = {"added": "+", "removed": "-"}


def diff(
    before: Annotated[Path, typer.Argument(metavar="A", help="A robot or scene, .yaml or .urdf.")],
    after: Annotated[Path, typer.Argument(metavar="B", help="Another, in any readable format.")],
    picture: Annotated[
        Path | None,
        typer.Option(
            callback=to_write,
            help="Draw both side by side, what differs in red; .png, .jpg or .webp.",
        ),
    ] = None,
    allow_outside: AllowOutside = False,
    search: Search = None,
) -> None:
    """What differs between two descriptions; exit code 1 when something does."""
    from mooring.model.comparing import differences

    with busy("comparing"):
        first, second = (read_anything(file, allow_outside, search) for file in (before, after))
        found = differences(first, second)
    if picture is not None:
        from mooring.drawing.comparison import compare_pictures

        with busy("drawing"):
            image = compare_pictures(first.robot, second.robot)
            with written(picture, ".png") as path:
                image.save(path)
    if manner.as_json:
        print_json([asdict(difference) for difference in found])
    else:
        for difference in found:
            say("{} {}", changed(_SIGNS.get(difference.what, "~")), difference)
        say("[bold]{}[/]", counted(len(found), "difference") if found else "no differences")
        if picture not in (None, STANDARD):
            wrote(picture)
        hint("check", after)
    if found:
        raise typer.Exit(1)
