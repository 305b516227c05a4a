"""mooring export: to an open format."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from mooring.cli.options import AllowOutside, CopyMeshes, Posture, RobotFile, Search
from mooring.cli.outputs import STANDARD, to_write, written
from mooring.cli.reading import read_anything
from mooring.cli.terminal import busy, hint, print_json, say, wrote


def export(
    file: RobotFile,
    output: Annotated[
        Path,
        typer.Argument(
            metavar="OUT",
            callback=to_write,
            help="A file: .urdf, .yaml, .glb, .stl, .obj, .ply, .json, .dot or .svg; or - for "
            "standard output.",
        ),
    ],
    form: Annotated[
        str | None,
        typer.Option("--format", metavar="SUFFIX", help="With OUT -: what it would end in."),
    ] = None,
    posture: Posture = None,
    copy_meshes: CopyMeshes = False,
    allow_outside: AllowOutside = False,
    search: Search = None,
) -> None:
    """Write a robot or a scene in an open format, listing what the format cannot carry."""
    from mooring.formats import READABLE, write_scene

    if (output == STANDARD) != (form is not None):
        raise typer.BadParameter("it belongs to OUT -, as in: - --format urdf",
                                 param_hint="--format")  # fmt: skip
    with busy(f"exporting {file.name}"):
        scene = read_anything(file, allow_outside, search)
        with written(output, f".{(form or '').removeprefix('.')}") as path:
            losses = write_scene(scene, path, posture, copy_meshes)
    print_json({"file": str(output), "not_carried": losses})
    if output != STANDARD:
        wrote(output)
    for loss in losses:
        say("[dark_orange3]not carried:[/] {}", loss)
    if STANDARD not in (file, output) and output.suffix.lower() in READABLE:
        hint("diff", file, output)
