"""mooring replay: say to a controller again what it was told."""

from __future__ import annotations

import contextlib
from pathlib import Path
from typing import Annotated

import typer

from mooring.cli.options import Address, Port
from mooring.cli.terminal import print_json, say


def replay(
    log: Annotated[
        Path, typer.Argument(metavar="LOG", help="Of mooring run --log or mooring stand-in --log.")
    ],
    who: Annotated[
        str | None,
        typer.Option(help="The program to repeat; the first that had the say if not given."),
    ] = None,
    speed: Annotated[float, typer.Option(help="Times that of the log; not in lock-step.")] = 1.0,
    address: Address = "127.0.0.1",
    port: Port = None,
) -> None:
    """Repeat a log to a controller, and say where its orders differ from those of the log.

    The exit code is 1 if they do.
    """
    from mooring.access import address as place
    from mooring.bridge.machine import Replayed
    from mooring.bridge.transports.websocket import WebSocketServer

    if not speed > 0:
        raise typer.BadParameter("it must be greater than zero", param_hint="--speed")
    replayed = Replayed(log, who=who, speed=speed)
    server = WebSocketServer(replayed, place(address, port, first=8640, scheme="ws"))
    say("{} listens at {}", log.name, server.where.url)
    print_json({"log": str(log), "address": server.where.url}, line=True)
    how = "in lock-step" if replayed.lockstep else f"at {speed:g} times its pace"
    say("[dim]it says what {} heard, {}; Ctrl-C ends it[/]", replayed.who, how)
    with contextlib.suppress(KeyboardInterrupt):
        replayed.over.wait()
        replayed.wait_for_answers()
    server.close()
    replayed.close()
    print_json({"answered": replayed.answered, "differences": replayed.differences})
    for words in replayed.differences:
        say("[dark_orange3]differs:[/] {}", words)
    if replayed.differences:
        raise typer.Exit(1)
    say("{} orders, the same as then", replayed.answered)
