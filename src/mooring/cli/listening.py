"""A run on the command line that others control: `mooring run --listen`."""

from __future__ import annotations

import math
import signal
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, cast

import typer

from mooring.cli.outputs import to_write
from mooring.cli.terminal import print_json, say, wrote

if TYPE_CHECKING:
    from mooring.bridge.session import Session
    from mooring.simulation import Simulation
    from mooring.simulation.playing import Change

_SWITCH = 5e-4
"""Between two changes of the thread that runs [s]."""
SAFE = ("hold", "relax", "stop")


@dataclass(frozen=True)
class Listening:
    """Where programs outside connect.

    Attributes:
        address, port: for WebSocket.
        broker: the address of an MQTT broker; None for none.
        log: a Parquet file for what is said; None for none.
        certificate, key: PEM files for TLS.
    """

    address: str = "127.0.0.1"
    port: int | None = None
    broker: str | None = None
    log: Path | None = None
    certificate: Path | None = None
    key: Path | None = None


Broker = Annotated[
    str | None,
    typer.Option(metavar="URL", help="And by way of an MQTT broker: mqtt://host/base."),
]
Lost = Annotated[str, typer.Option(help="When a controller is lost or wrong: hold, relax or stop.")]
LogFile = Annotated[
    Path | None,
    typer.Option(callback=to_write, help="A .parquet file for all that is said, as it is said."),
]
Certificate = Annotated[Path | None, typer.Option(help="For TLS, a .pem file.")]
Key = Annotated[Path | None, typer.Option(help="Its key, a .pem file.")]


def refuse_lost(lost: str) -> None:
    """Refuse what is no safe behaviour."""
    if lost not in SAFE:
        raise typer.BadParameter(f"{lost!r} is none of {', '.join(SAFE)}", param_hint="--lost")


@contextmanager
def served(session: Session, name: str, how: Listening) -> Iterator[None]:
    """Let programs connect to a session for as long as this lasts."""
    from mooring.access import address
    from mooring.bridge.logs import Log
    from mooring.bridge.transports.websocket import WebSocketServer

    sys.setswitchinterval(_SWITCH)
    # Whoever ends a server ends it as Ctrl-C does: what was recorded is kept.
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    servers: list[Any] = []
    log: Log | None = None
    try:
        if (how.key is None) != (how.certificate is None):
            raise typer.BadParameter("a certificate comes with its key", param_hint="--certificate")
        scheme = "ws" if how.certificate is None else "wss"
        where = address(how.address, how.port, first=8640, scheme=scheme)
        log_file = how.log
        log = None if log_file is None else Log(log_file)
        session.tap = None if log is None else log.note
        servers.append(WebSocketServer(session, where, certificate=how.certificate, key=how.key))
        say("{} listens at {}", name, where.url)
        told = {"robot": name, "address": where.url}
        if how.broker is not None:
            from mooring.bridge.transports.mqtt import Broker as At
            from mooring.bridge.transports.mqtt import MqttServer

            broker = At.of(how.broker, name)
            servers.append(MqttServer(session, broker))
            say("and by the broker at {}:{}, below {}", broker.host, broker.port, broker.base)
            told |= {"broker": f"mqtt://{broker.host}:{broker.port}/{broker.base}"}
        print_json(told, line=True)
        yield
    finally:
        session.close()
        for server in servers:
            server.close()
        session.player.close()
        if log is not None and log_file is not None:
            log.close()
            wrote(log_file)


def serve_run(
    simulation: Simulation, length: float, pace: float, lockstep: bool, lost: str, how: Listening
) -> None:
    """Serve a simulation until its end, or Ctrl-C."""
    from mooring.bridge.session import Session
    from mooring.simulation.playing import Player

    refuse_lost(lost)
    player = Player(simulation, pace)
    player.last = length
    session = Session(player, lockstep=lockstep, lost=cast("Any", lost))
    over = threading.Event()
    tell_others = player.told

    def told(change: Change) -> None:
        tell_others(change)
        if change == "ended":
            over.set()

    player.told = told
    with served(session, simulation.robot.name, how):
        time = "time waits for the controller" if lockstep else "time goes on by itself"
        speed = "as fast as it goes" if math.isinf(pace) else f"{pace:g} times real time at most"
        say("[dim]{}, {}; a lost controller: {}; Ctrl-C ends it[/]", time, speed, lost)
        player.play()
        try:
            over.wait()
        except KeyboardInterrupt:
            player.pause()
            if math.isfinite(length):
                simulation.stop()
