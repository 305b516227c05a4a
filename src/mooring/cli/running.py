"""A run on the command line: its pace, its progress, and what is written of it."""

from __future__ import annotations

import math
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from mooring.cli.manner import manner
from mooring.cli.outputs import missing
from mooring.cli.terminal import busy, say, side
from mooring.errors import MooringError

if TYPE_CHECKING:
    import pandas as pd

    from mooring.announcing import Progress
    from mooring.model import Robot
    from mooring.simulation import Recording, Simulation
    from mooring.simulation.recording.run_folder import Work

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
    if not sys.stderr.isatty() or manner.quiet:
        yield None
        return
    from rich.progress import BarColumn, TextColumn, TimeRemainingColumn
    from rich.progress import Progress as Bars

    columns = (TextColumn("simulating"), BarColumn(), TextColumn("{task.fields[at]}"))
    with Bars(*columns, TimeRemainingColumn(), console=side(), transient=True) as bar:
        task = bar.add_task("", total=1.0, at="")

        def advance(reached: float, length: float) -> None:
            if math.isinf(length):
                bar.update(task, total=None, at=f"{reached:.1f} s; Ctrl-C ends it")
            else:
                bar.update(task, completed=reached / length, at=f"{reached:.1f} of {length:.1f} s")

        yield advance


@contextmanager
def run_folder(folder: Path, force: bool) -> Iterator[Work]:
    """A run's folder that is written whole, or left beside with a journal if it is cut off."""
    from mooring.simulation.recording.run_folder import unfinished, whole_folder

    for left in unfinished(folder):
        say(
            "[dark_orange3]note:[/] {} holds a run that was cut off, or still goes on; open, film "
            "and run --resume read it", left,
        )  # fmt: skip
    work: Work | None = None
    try:
        with whole_folder(folder, force=force) as work:
            yield work
    except BaseException:
        if work is not None and work.path.exists():
            say("what was recorded until then is in {}", work.path)
        raise


def write_run(
    simulation: Simulation,
    recording: Recording,
    work: Work,
    *,
    plot: bool,
    film: bool,
    report: bool,
) -> tuple[list[str], list[str]]:
    """The recording, its plots, a film, and a picture of the last instant.

    Whatever cannot be written is left out, and the rest written: the recording first.

    Returns:
        The names of the files written, and what could not be, with why.
    """
    from mooring.drawing.plots import save_plots
    from mooring.files import write_text
    from mooring.simulation import write_animation
    from mooring.simulation.recording.stored import write_recording

    robot, folder = simulation.robot, work.path
    recording.run = work.run
    written: list[str] = []
    lost: list[str] = []

    def keep(what: str, make: Callable[[], list[Path]]) -> None:
        try:
            with busy(f"writing {what}"):
                written.extend(path.relative_to(folder).as_posix() for path in make())
        except (MooringError, OSError) as error:
            lost.append(f"{what}: {error}")
        except ModuleNotFoundError as error:
            lost.append(f"{what}: {missing(error.name or '')}")

    def as_text(name: str, text: str) -> list[Path]:
        write_text(folder / name, text)
        return [folder / name]

    keep("recording.csv", lambda: as_text("recording.csv", _csv(recording.table)))
    keep("recording", lambda: write_recording(recording, folder))
    keep("model", lambda: write_model(simulation, folder))
    if len(recording.table):
        keep("tables", lambda: _tables(robot, recording, folder))
    moved = len(recording.table) > 1
    if moved and plot:
        keep("plots", lambda: save_plots(recording, folder))
    if report and len(recording.table):
        keep("report", lambda: _report(robot, recording, folder / "report.html"))
    if not any(link.shown(robot.materials) for link in robot.links.values()):
        return written, lost
    if len(recording.table):
        keep("end.png", lambda: _end(robot, recording, folder / "end.png"))
    if moved:
        keep("moments.png", lambda: _moments(robot, recording, folder / "moments.png"))

        def animation() -> list[Path]:
            write_animation(robot, recording, folder / "motion.glb")
            return [folder / "motion.glb"]

        keep("motion.glb", animation)
    if moved and film:
        keep("film", lambda: _film(robot, recording, folder / "run.mp4"))
    return written, lost


def write_model(simulation: Simulation, folder: Path) -> list[Path]:
    """What is run, for those who look at the run later."""
    from mooring.formats import write_scene
    from mooring.simulation.recording.run_folder import MODEL_FILE

    if not (folder / MODEL_FILE).exists():
        write_scene(simulation.scene, folder / MODEL_FILE)
    return [folder / MODEL_FILE]


def _csv(table: pd.DataFrame, index: bool = True) -> str:
    return str(table.to_csv(lineterminator="\n", index=index))


def _tables(robot: Robot, recording: Recording, folder: Path) -> list[Path]:
    """What each motor did, and how near links came."""
    from mooring.files import write_text
    from mooring.simulation.recording.clearance_table import clearance_table

    write_text(folder / "motors.csv", _csv(recording.motor_table()))
    write_text(folder / "clearances.csv", _csv(clearance_table(robot, recording)[0], index=False))
    return [folder / "motors.csv", folder / "clearances.csv"]


def _report(robot: Robot, recording: Recording, file: Path) -> list[Path]:
    from mooring.drawing.report import report_run

    report_run(robot, recording, file)
    return [file]


def _end(robot: Robot, recording: Recording, file: Path) -> list[Path]:
    """The last instant, with the forces of contact."""
    from mooring.drawing.runs import Stage
    from mooring.files import write_whole

    states = recording.positions()
    stage = Stage(robot, recording.ground, states[-1:], "corner", (1280, 800))
    last = recording.contacts[recording.contacts["time"] == recording.table.index[-1]]
    forces = last[["x", "y", "z", "fx", "fy", "fz"]].to_numpy(dtype=float)
    caption = f"{recording.robot}, after {recording.table.index[-1]:.2f} s"
    image = stage.draw(states[-1], caption, list(forces))
    with write_whole(file) as stream:
        image.save(stream, "PNG")
    return [file]


def _moments(robot: Robot, recording: Recording, file: Path) -> list[Path]:
    from mooring.drawing.runs import draw_moments
    from mooring.files import write_whole

    with write_whole(file) as stream:
        draw_moments(robot, recording).save(stream, "PNG")
    return [file]


def _film(robot: Robot, recording: Recording, file: Path) -> list[Path]:
    from mooring.drawing.runs import draw_run

    draw_run(robot, recording, file)
    return [file]
