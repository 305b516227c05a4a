"""mooring open: look at a robot, a scene or a recording in the browser."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from mooring.cli.options import Address, AllowOutside, Port, Search
from mooring.cli.outputs import to_write
from mooring.cli.terminal import busy, print_json, say, wrote


def open_(
    file: Annotated[
        Path,
        typer.Argument(
            metavar="ROBOT_OR_SCENE_OR_RECORDING",
            help="A document, a URDF file, or the folder of a run.",
        ),
    ],
    port: Port = None,
    address: Address = "127.0.0.1",
    browser: Annotated[bool, typer.Option(help="Only print the address with --no-browser.")] = True,
    save: Annotated[
        Path | None,
        typer.Option(
            callback=to_write, help="Write one .html file that shows it with no server, and end."
        ),
    ] = None,
    follow: Annotated[
        str | None,
        typer.Option(
            metavar="SOURCE",
            help="Show it as a machine or simulation elsewhere says (ws://..., mqtt://host/base), "
            "or a table of joint states (.csv, .parquet).",
        ),
    ] = None,
    record: Annotated[
        Path | None,
        typer.Option(
            callback=to_write,
            help="Write what is followed into a .parquet or .csv file at the end.",
        ),
    ] = None,
    allow_outside: AllowOutside = False,
    search: Search = None,
) -> None:
    """Look at it, jog it, check it, simulate it; the page follows the files as they change."""
    from mooring.access import address as place
    from mooring.page.desk import Desk
    from mooring.page.desk.opened import ModelSource
    from mooring.page.saving import save_page
    from mooring.page.serve import serve

    if record is not None and follow is None:
        raise typer.BadParameter("it belongs to --follow", param_hint="--record")
    if record is not None and record.suffix.lower() not in (".csv", ".parquet"):
        raise typer.BadParameter("it is a .csv or a .parquet file", param_hint="--record")
    where = None if save else place(address, port)
    with busy(f"reading {file.name}"):
        desk = Desk(ModelSource(file, allow_outside, search or ()))
    if where is None:
        assert save is not None
        with busy("writing the page"):
            save_page(desk.robot, save, recording=desk.recording, q=desk.q, ground=desk.ground)
        print_json({"file": str(save)})
        wrote(save)
        return

    def ready() -> None:
        say("{} is at {}", desk.robot.name, where.url)
        say("[dim]Ctrl-C ends it[/]")
        print_json({"robot": desk.robot.name, "address": where.url}, line=True)

    if follow is not None:
        from mooring.bridge.following import follow as begin

        desk.follow(begin(follow))
    try:
        serve(desk, where, show=browser, ready=ready)
    finally:
        if desk.follower is not None:
            desk.follower.close()
            if record is not None:
                desk.follower.write(record)
                wrote(record)
