"""mooring run: simulate a robot."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from mooring.cli.terminal import AllowOutside, RobotFile, Search, busy, out, read_robot, side

if TYPE_CHECKING:
    from mooring.model import Robot
    from mooring.simulation import Recording


def run(
    file: RobotFile,
    output: Annotated[Path, typer.Option("--output", "-o", help="A folder for what comes out.")],
    motion: Annotated[
        str | None,
        typer.Option(help="The name of a motion; the document's only one if not given."),
    ] = None,
    posture: Annotated[str | None, typer.Option(help="Where to start.")] = None,
    seconds: Annotated[
        str | None,
        typer.Option(help="How long, e.g. 10 or '2 min'; the motion's length if not given."),
    ] = None,
    step: Annotated[str, typer.Option(help="Time step.")] = "1 ms",
    rate: Annotated[str, typer.Option(help="Recorded instants per second.")] = "100 Hz",
    motors: Annotated[bool, typer.Option(help="Leave the motors off with --no-motors.")] = True,
    stepper: Annotated[str, typer.Option(help="robust or accurate.")] = "robust",
    allow_outside: AllowOutside = False,
    search: Search = None,
) -> None:
    """Simulate a robot: recording, plots and a picture of the end; exit code 1 if it failed."""

    with busy(f"reading {file.name}"):
        robot = read_robot(file, allow_outside, search)
    if motion is None and posture is None and len(robot.motions) == 1:
        motion = next(iter(robot.motions))
    recording = simulate_with_bar(
        robot, motion=motion, posture=posture, seconds=_number(seconds), step=_number(step),
        rate=_number(rate), powered=motors, stepper=stepper,
    )  # fmt: skip
    written = write_run(robot, recording, output)
    console = out()
    what = f"motion {motion}" if motion else f"posture {posture}" if posture else "from zero"
    table = recording.table
    if len(table):
        console.print(
            f"[bold]{robot.name}[/]: {what}, {table.index[-1]:.2f} s, {len(table):,} instants"
        )
    for note in recording.notes:
        console.print(f"[dark_orange3]note:[/] {note}", soft_wrap=True)
    for path in written:
        console.print(f"wrote {path}", soft_wrap=True)
    if not recording.complete:
        raise typer.Exit(1)


def simulate_with_bar(robot: Robot, **options: object) -> Recording:
    """`mooring.simulate` with a progress bar where somebody watches."""
    from rich.progress import BarColumn, Progress, TextColumn, TimeRemainingColumn

    from mooring.simulation import simulate

    if not sys.stderr.isatty():
        return simulate(robot, **options)  # type: ignore[arg-type]
    columns = (TextColumn("simulating"), BarColumn(), TextColumn("{task.fields[at]}"))
    with Progress(*columns, TimeRemainingColumn(), console=side(), transient=True) as bar:
        task = bar.add_task("", total=1.0, at="")

        def advance(reached: float, length: float) -> None:
            bar.update(task, completed=reached / length, at=f"{reached:.1f} of {length:.1f} s")

        return simulate(robot, progress=advance, **options)  # type: ignore[arg-type]


def write_run(robot: Robot, recording: Recording, folder: Path) -> list[Path]:
    """The recording, its plots and a picture of the last instant."""
    from mooring.drawing import picture
    from mooring.drawing.plots import save_plots
    from mooring.simulation import write_animation

    folder.mkdir(parents=True, exist_ok=True)
    table = folder / "recording.csv"
    recording.write_csv(table)
    written = [table]
    if len(recording.table) > 1:
        with busy("plotting"):
            written += save_plots(recording, folder)
    if any(link.parts or link.extra_visuals for link in robot.links.values()):
        with busy("drawing"):
            last = dict(zip(recording.coordinates, recording.positions()[-1], strict=True))
            caption = f"{robot.name}, after {recording.table.index[-1]:.2f} s"
            image = picture(robot, posture=last, caption=caption)
            image.save(folder / "end.png")
        written.append(folder / "end.png")
        if len(recording.table) > 1:
            write_animation(robot, recording, folder / "motion.glb")
            written.append(folder / "motion.glb")
    return written


def _number(text: str | None) -> float | str | None:
    """Text as a number where it is one: SI, as everywhere."""
    if text is None:
        return None
    try:
        return float(text)
    except ValueError:
        return text
