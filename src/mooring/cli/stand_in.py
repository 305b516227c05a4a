"""mooring stand-in: behave like the box that controls a machine."""

from __future__ import annotations

import contextlib
import threading
from typing import Annotated, Any, cast

import typer

from mooring.cli.listening import (
    Broker,
    Listening,
    LogFile,
    Lost,
    refuse_lost,
    served,
)
from mooring.cli.options import Address, AllowOutside, Port, Posture, SceneFile, Search, Seed
from mooring.cli.reading import read_anything
from mooring.cli.terminal import busy, say


def stand_in(
    file: SceneFile,
    posture: Posture = None,
    clock: Annotated[
        str, typer.Option(help="How much faster its clock goes than this computer's, e.g. '2 %'.")
    ] = "0",
    delay: Annotated[
        str, typer.Option(help="Of what it hears and of what it says, each, e.g. '20 ms'.")
    ] = "0",
    jitter: Annotated[str, typer.Option(help="More delay at random, at most.")] = "0",
    drop: Annotated[
        str, typer.Option(help="Share of the messages that are lost, each way, e.g. '1 %'.")
    ] = "0",
    seed: Seed = None,
    broker: Broker = None,
    lost: Lost = "hold",
    log: LogFile = None,
    address: Address = "127.0.0.1",
    port: Port = None,
    allow_outside: AllowOutside = False,
    search: Search = None,
) -> None:
    """Stand in for a machine: a clock of its own, delays, lost messages, limits, faults.

    It speaks the same messages as mooring run --listen. A controller that is silent for two periods
    or asks for too much puts it into a fault, which it has to clear.
    """
    from mooring.bridge.machine import Machine, Manners
    from mooring.simulation import Simulation
    from mooring.simulation.playing import KEPT, Player

    refuse_lost(lost)
    manners = Manners(_share(clock, "--clock"), _seconds(delay), _seconds(jitter),
                      _share(drop, "--drop"), seed or 0)  # fmt: skip
    with busy(f"reading {file.name}"):
        scene = read_anything(file, allow_outside, search)
        simulation = Simulation(scene, motion=[], posture=posture, keep=KEPT, seed=seed or 0)
    machine = Machine(Player(simulation), manners, lost=cast("Any", lost))
    how = Listening(address, port, broker, log)
    with served(machine, simulation.robot.name, how), contextlib.suppress(KeyboardInterrupt):
        say("[dim]it behaves like the box of a machine; Ctrl-C switches it off[/]")
        threading.Event().wait()


def _share(text: str, option: str) -> float:
    number, sign = text.strip(), 1.0
    if number.endswith("%"):
        number, sign = number[:-1].strip(), 0.01
    try:
        return sign * float(number)
    except ValueError:
        raise typer.BadParameter(f"{text!r} is no share such as 0.02 or '2 %'",
                                 param_hint=option) from None  # fmt: skip


def _seconds(text: str) -> float:
    from mooring.units import to_si

    try:
        return float(text)
    except ValueError:
        return to_si(text, "time")
