"""A run on the command line that others control: `mooring run --listen`."""

from __future__ import annotations

import math
import sys
import threading
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, cast

import typer

from mooring.cli.terminal import out

if TYPE_CHECKING:
    from mooring.simulation import Simulation

_SWITCH = 5e-4
"""Between two changes of the thread that runs [s]."""
SAFE = ("hold", "relax", "stop")


@dataclass(frozen=True)
class Listening:
    """How a run listens.

    Attributes:
        address, port: where, for WebSocket.
        broker: the address of an MQTT broker; None for none.
        lockstep: whether time waits for the controller.
        lost: what follows when it is lost.
        log: a Parquet file for what was said; None for none.
        certificate, key: PEM files for TLS.
    """

    address: str
    port: int | None
    broker: str | None
    lockstep: bool
    lost: str
    log: Path | None
    certificate: Path | None
    key: Path | None


def serve_run(simulation: Simulation, length: float, pace: float, how: Listening) -> None:
    """Serve a simulation until its end, or Ctrl-C."""
    from mooring.access import address
    from mooring.bridge.logs import Log
    from mooring.bridge.session import Session
    from mooring.bridge.transports.websocket import WebSocketServer
    from mooring.simulation.playing import Player

    if how.lost not in SAFE:
        raise typer.BadParameter(f"{how.lost!r} is none of {', '.join(SAFE)}", param_hint="--lost")
    if (how.key is None) != (how.certificate is None):
        raise typer.BadParameter("a certificate comes with its key", param_hint="--certificate")
    sys.setswitchinterval(_SWITCH)
    scheme = "ws" if how.certificate is None else "wss"
    where = address(how.address, how.port, first=8640, scheme=scheme)
    player = Player(simulation, pace)
    player.last = length
    log = None if how.log is None else Log(how.log)
    tap = None if log is None else log.note
    session = Session(player, lockstep=how.lockstep, lost=cast("Any", how.lost), tap=tap)
    over = threading.Event()
    tell_others = player.ending

    def ending() -> None:
        tell_others()
        over.set()

    player.ending = ending
    servers: list[Any] = []
    try:
        servers.append(WebSocketServer(session, where, certificate=how.certificate, key=how.key))
        if how.broker is not None:
            from mooring.bridge.transports.mqtt import Broker, MqttServer

            servers.append(MqttServer(session, Broker.of(how.broker, simulation.robot.name)))
        _say(simulation, where.url, servers, how, pace)
        player.play()
        try:
            over.wait()
        except KeyboardInterrupt:
            player.pause()
            if math.isfinite(length):
                simulation.stop()
    finally:
        session.close()
        for server in servers:
            server.close()
        player.close()
        if log is not None:
            log.close()
            out().print(f"wrote {how.log}", soft_wrap=True)


def _say(simulation: Simulation, url: str, servers: list[Any], how: Listening, pace: float) -> None:
    console = out()
    console.print(f"{simulation.robot.name} listens at {url}", soft_wrap=True)
    if len(servers) > 1:
        broker = servers[1].broker
        console.print(f"and by the broker at {broker.host}:{broker.port}, below {broker.base}")
    time = "time waits for the controller" if how.lockstep else "time goes on by itself"
    speed = "as fast as it goes" if math.isinf(pace) else f"{pace:g} times real time at most"
    console.print(f"[dim]{time}, {speed}; a lost controller: {how.lost}; Ctrl-C ends it[/]")
