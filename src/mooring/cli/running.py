"""A run on the command line: its pace, its progress, and what is written of it."""

from __future__ import annotations

import math
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from mooring.cli.terminal import busy, side

if TYPE_CHECKING:
    from mooring.simulation import Recording, Simulation

Progress = Callable[[float, float], None]
_LONGEST_WAIT = 0.05
"""Between two looks at the clock, when the pace is held [s]."""


def paced(simulation: Simulation, length: float, pace: float = math.inf) -> None:
    """Step a simulation to a time, no faster than `pace` times real time, with a bar."""
    from mooring.simulation import run_until

    with _bar() as show:
        if math.isinf(pace):
            run_until(simulation, length, show)
            return
        began, first = time.perf_counter(), simulation.time
        while simulation.time < length - 1e-9 and not simulation.ended:
            ahead = min(length, simulation.time + _LONGEST_WAIT * pace)
            run_until(simulation, max(ahead, simulation.time + simulation.settings.step))
            if show is not None:
                show(min(simulation.time, length), length)
            due = began + (simulation.time - first) / pace
            try:
                time.sleep(max(0.0, due - time.perf_counter()))
            except KeyboardInterrupt:
                simulation.stop()


@contextmanager
def _bar() -> Iterator[Progress | None]:
    """A progress bar where somebody watches."""
    if not sys.stderr.isatty():
        yield None
        return
    from rich.progress import BarColumn, Progress, TextColumn, TimeRemainingColumn

    columns = (TextColumn("simulating"), BarColumn(), TextColumn("{task.fields[at]}"))
    with Progress(*columns, TimeRemainingColumn(), console=side(), transient=True) as bar:
        task = bar.add_task("", total=1.0, at="")

        def advance(reached: float, length: float) -> None:
            if math.isinf(length):
                bar.update(task, total=None, at=f"{reached:.1f} s; Ctrl-C ends it")
            else:
                bar.update(task, completed=reached / length, at=f"{reached:.1f} of {length:.1f} s")

        yield advance


def write_run(
    simulation: Simulation,
    recording: Recording,
    folder: Path,
    *,
    plot: bool,
    film: bool,
    report: bool,
) -> list[Path]:
    """The recording, its plots, a film, and a picture of the last instant; what was written."""
    from mooring.drawing.plots import save_plots
    from mooring.drawing.runs import Stage, draw_moments, draw_run
    from mooring.files import write_text, write_whole
    from mooring.formats import write_scene
    from mooring.simulation import MODEL_FILE, write_animation
    from mooring.simulation.recording.clearance_table import clearance_table

    robot = simulation.robot
    folder.mkdir(parents=True, exist_ok=True)
    written = recording.write(folder)
    recording.write_csv(folder / "recording.csv")
    write_scene(simulation.scene, folder / MODEL_FILE)
    written += [folder / "recording.csv", folder / MODEL_FILE]
    if len(recording.table):
        tables = {"motors.csv": recording.motor_table(),
                  "clearances.csv": clearance_table(robot, recording)[0]}  # fmt: skip
        for name, table in tables.items():
            write_text(folder / name, table.to_csv(lineterminator="\n", index=name == "motors.csv"))
            written.append(folder / name)
    moved = len(recording.table) > 1
    if moved and plot:
        with busy("plotting"):
            written += save_plots(recording, folder)
    if report and len(recording.table):
        from mooring.drawing.report import report_run

        with busy("writing the report"):
            report_run(robot, recording, folder / "report.html")
        written.append(folder / "report.html")
    seen = any(link.parts or link.visuals for link in robot.links.values())
    if not seen or not len(recording.table):
        return written
    states = recording.positions()
    with busy("drawing"):
        stage = Stage(robot, recording.ground, states[-1:], "corner", (1280, 800))
        last = recording.contacts[recording.contacts["time"] == recording.table.index[-1]]
        forces = last[["x", "y", "z", "fx", "fy", "fz"]].to_numpy(dtype=float)
        caption = f"{recording.robot}, after {recording.table.index[-1]:.2f} s"
        image = stage.draw(states[-1], caption, list(forces))
        with write_whole(folder / "end.png") as stream:
            image.save(stream, "PNG")
    written.append(folder / "end.png")
    if moved:
        with busy("drawing"), write_whole(folder / "moments.png") as stream:
            draw_moments(robot, recording).save(stream, "PNG")
        written.append(folder / "moments.png")
        write_animation(robot, recording, folder / "motion.glb")
        written.append(folder / "motion.glb")
    if moved and film:
        with busy("filming"):
            draw_run(robot, recording, folder / "run.mp4")
        written.append(folder / "run.mp4")
    return written
