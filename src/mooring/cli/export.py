"""mooring export: to an open format."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from mooring.cli.outputs import to_write
from mooring.cli.terminal import (
    AllowOutside,
    CopyMeshes,
    Json,
    RobotFile,
    Search,
    busy,
    print_json,
    read_anything,
    say,
)


def export(
    file: RobotFile,
    output: Annotated[
        Path,
        typer.Argument(
            metavar="OUT",
            callback=to_write,
            help="A file: .urdf, .yaml, .glb, .stl, .obj, .ply, .json, .dot or .svg.",
        ),
    ],
    posture: Annotated[
        str | None, typer.Option(help="For geometry: the posture it stands in.")
    ] = None,
    copy_meshes: CopyMeshes = False,
    allow_outside: AllowOutside = False,
    search: Search = None,
    json: Json = False,
) -> None:
    """Write a robot or a scene in an open format, listing what the format cannot carry."""
    from mooring.formats import write_scene

    with busy(f"exporting {file.name}"):
        losses = write_scene(
            read_anything(file, allow_outside, search), output, posture, copy_meshes
        )
    if json:
        print_json({"file": str(output), "not_carried": losses})
        return
    say("wrote {}", output)
    for loss in losses:
        say("[dark_orange3]not carried:[/] {}", loss)
