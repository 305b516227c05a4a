"""mooring open: look at a robot, a scene or a recording in the browser."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from mooring.cli.terminal import AllowOutside, Search, busy, out


def open_(
    file: Annotated[
        Path,
        typer.Argument(
            metavar="ROBOT_OR_SCENE_OR_RECORDING",
            help="A document, a URDF file, or the folder of a run.",
        ),
    ],
    port: Annotated[
        int | None, typer.Option(help="Of the server; a free one if not given.")
    ] = None,
    address: Annotated[
        str,
        typer.Option(help="Listen here; others than this machine then need the printed token."),
    ] = "127.0.0.1",
    browser: Annotated[bool, typer.Option(help="Only print the address with --no-browser.")] = True,
    allow_outside: AllowOutside = False,
    search: Search = None,
) -> None:
    """Look at it, jog it, check it, simulate it; the page follows the files as they change."""
    from mooring.page.desk import Desk
    from mooring.page.desk.opened import Source
    from mooring.page.serve import address as place
    from mooring.page.serve import serve

    where = place(address, port)
    with busy(f"reading {file.name}"):
        desk = Desk(Source(file, allow_outside, search or ()))

    def ready() -> None:
        out().print(f"{desk.robot.name} is at {where.url}", soft_wrap=True)
        out().print("[dim]Ctrl-C ends it[/]")

    serve(desk, where, show=browser, ready=ready)
