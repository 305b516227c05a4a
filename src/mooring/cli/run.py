"""mooring run: simulate a robot or a scene."""

from __future__ import annotations

import math
from contextlib import nullcontext
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from mooring.cli.listening import (
    Broker,
    Certificate,
    Key,
    Listening,
    LogFile,
    Lost,
    serve_run,
)
from mooring.cli.options import (
    Address,
    AllowOutside,
    Film,
    Folder,
    Force,
    Port,
    Posture,
    SceneFile,
    Search,
    Seed,
)
from mooring.cli.outputs import refuse_without
from mooring.cli.reading import read_anything
from mooring.cli.running import paced, run_folder, write_model, write_run
from mooring.cli.terminal import busy, hint, print_json, say, wrote

if TYPE_CHECKING:
    from mooring.simulation import Recording, RunFinding

_SLOWEST = 0.001
"""Times real time."""


def run(
    file: SceneFile,
    output: Folder = None,
    force: Force = False,
    motion: Annotated[
        str | None,
        typer.Option(help="The name of a motion; the document's only one if not given."),
    ] = None,
    posture: Posture = None,
    seconds: Annotated[
        str | None,
        typer.Option(help="How long, e.g. 10 or '2 min'; the motion's length if not given."),
    ] = None,
    speed: Annotated[
        str | None,
        typer.Option(
            help="max, 1 for real time, 0.05 for slow motion, ...; max if not given, and 1 where "
            "controllers outside are not waited for."
        ),
    ] = None,
    film: Film = False,
    report: Annotated[
        bool, typer.Option("--report", help="Write report.html for a design review, too.")
    ] = False,
    plot: Annotated[bool, typer.Option(help="Leave plots out with --no-plot.")] = True,
    step: Annotated[str | None, typer.Option(help="Time step; 1 ms if not given.")] = None,
    rate: Annotated[
        str | None, typer.Option(help="Recorded instants per second; 100 if not given.")
    ] = None,
    motors: Annotated[bool, typer.Option(help="Leave the motors off with --no-motors.")] = True,
    stepper: Annotated[str, typer.Option(help="robust or accurate.")] = "robust",
    seed: Seed = None,
    resume: Annotated[
        Path | None, typer.Option(help="Go on from the recording in this folder.")
    ] = None,
    at: Annotated[
        str | None, typer.Option(help="From which of its instants, e.g. '2.5 s'; its last.")
    ] = None,
    listen: Annotated[
        bool, typer.Option("--listen", help="Let controllers outside connect, by WebSocket.")
    ] = False,
    broker: Broker = None,
    lock_step: Annotated[
        bool, typer.Option("--lock-step", help="Let time wait for the controller each period.")
    ] = False,
    lost: Lost = "hold",
    log: LogFile = None,
    address: Address = "127.0.0.1",
    port: Port = None,
    certificate: Certificate = None,
    key: Key = None,
    allow_outside: AllowOutside = False,
    search: Search = None,
) -> None:
    """Simulate a robot or a scene: recording, plots, film, and what went wrong.

    Ctrl-C ends the run and keeps what was recorded. The exit code is 1 if it failed.
    """
    listens = listen or broker is not None
    if output is None and not listens:
        raise typer.BadParameter("say where what comes out goes", param_hint="--output")
    if output is None and (film or report):
        raise typer.BadParameter("a film or report needs a folder", param_hint="--output")
    if not listens and (lock_step or log or certificate or key or port is not None):
        raise typer.BadParameter("these belong to --listen", param_hint="--lock-step, --log, ...")
    if at is not None and resume is None:
        raise typer.BadParameter("belongs to --resume", param_hint="--at")
    from mooring.simulation.recording.run_folder import JOURNAL, refuse_foreign

    if output is not None:
        refuse_foreign(output, force)
        refuse_without(*(["PIL", "matplotlib"] if plot else []), *(["av"] if film else []))
    from mooring.errors import ModelError
    from mooring.simulation import Recording as Kept
    from mooring.simulation import Simulation, last_step, run_length
    from mooring.simulation.playing import KEPT

    with busy(f"reading {file.name}"):
        scene = read_anything(file, allow_outside, search)
    robot = scene.robot
    if motion is None and posture is None and scene.motion is None and len(robot.motions) == 1:
        motion = next(iter(robot.motions))
    if motion is None and posture is None and scene.motion is None and len(robot.motions) > 1:
        raise ModelError(
            f"{robot.name} has several motions ({', '.join(robot.motions)}); say which with "
            "--motion, or give a --posture to hold"
        )
    pace = _pace(speed or ("1" if listens and not lock_step else "max"))
    forever = listens and seconds is None
    with run_folder(output, force) if output is not None else nullcontext() as work:
        with busy("planning"):
            simulation = Simulation(
                scene,
                motion=motion, posture=posture, step=_number(step), rate=_number(rate),
                powered=motors, stepper=stepper, seed=seed, keep=KEPT if forever else None,  # type: ignore[arg-type]
                journal=None if work is None else work.path / JOURNAL,
            )  # fmt: skip
            if resume is not None:
                simulation.reset(Kept.read(resume), _number(at))
            length = math.inf if forever else run_length(simulation, _number(seconds))
            if work is not None:
                write_model(simulation, work.path)
        if listens:
            how = Listening(address, port, broker, log, certificate, key)
            serve_run(simulation, length, pace, lock_step, lost, how)
            if forever and work is not None and not simulation.ended:
                last_step(simulation)
        else:
            paced(simulation, length, pace)
        if output is None or work is None:
            return
        with busy("looking for what went wrong"):
            recording = simulation.recording
        written, lost_outputs = write_run(
            simulation, recording, work, plot=plot, film=film, report=report
        )
    what = f"motion {motion}" if motion else f"posture {posture}" if posture else ""
    _say(recording, what)
    files = [output / name for name in written]
    wrote(*files)
    for words in lost_outputs:
        say("[bold red]not written:[/] {}", words)
    print_json(as_dict(recording) | {
        "folder": str(output),
        "files": [str(path) for path in files],
        "not_written": lost_outputs,
    })  # fmt: skip
    if "recording" not in {words.partition(":")[0] for words in lost_outputs}:
        hint("open", output)
    if lost_outputs or not recording.complete:
        raise typer.Exit(1)


def as_dict(recording: Recording) -> dict[str, Any]:
    """What a run came to, for programs; its tables are in its folder."""
    times = recording.table.index
    return {
        "robot": recording.robot,
        "run": recording.run,
        "complete": recording.complete,
        "seconds": float(times[-1]) if len(times) else 0.0,
        "instants": len(times),
        "findings": [asdict(finding) for finding in recording.findings],
        "notes": recording.notes,
    }


def _say(recording: Recording, what: str) -> None:
    table = recording.table
    if len(table):
        words = [what] if what else []
        words += [f"{table.index[-1]:.2f} s", f"{len(table):,} instants"]
        say("[bold]{}[/]: {}", recording.robot, ", ".join(words))
    for note in recording.notes:
        say("[dark_orange3]note:[/] {}", note)
    say_findings(recording)


def say_findings(recording: Recording) -> None:
    """What went wrong, the likely cause first; what is wrong with several in the same way once."""
    alike: dict[str, list[RunFinding]] = {}
    for finding in recording.findings:
        alike.setdefault(finding.code, []).append(finding)
    for number, same in enumerate(alike.values()):
        mark = "[bold dark_orange3]likely cause:[/]" if number == 0 else "[dark_orange3]also:[/]"
        mark = mark if len(alike) > 1 else "[dark_orange3]found:[/]"
        say(f"{mark} {{}}", same[0].message)
        if len(same) > 1:
            others = ", ".join(finding.item for finding in same[1:])
            say("  [dim]the same of {}[/]", others)
        say("  [dark_cyan]remedy:[/] {}", same[0].remedy)


def _pace(speed: str) -> float:
    """How many times real time; inf for as fast as it goes."""
    if speed == "max":
        return float("inf")
    try:
        pace = float(speed)
    except ValueError:
        pace = -1.0
    if not pace >= _SLOWEST:
        raise typer.BadParameter(f"{speed!r} is neither max nor a number of {_SLOWEST:g} or more")
    return pace


def _number(text: str | None) -> float | str | None:
    """Text as a number where it is one: SI, as everywhere."""
    if text is None:
        return None
    try:
        return float(text)
    except ValueError:
        return text
