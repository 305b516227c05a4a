"""mooring demo: the whole job on the line tender."""

from __future__ import annotations

import shutil
import time
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from mooring.cli.check import print_report
from mooring.cli.outputs import to_fill
from mooring.cli.run import say_findings
from mooring.cli.running import paced, run_folder, write_run
from mooring.cli.terminal import (
    busy,
    counted,
    say,
)

if TYPE_CHECKING:
    from mooring.simulation import Recording

_MOTION = "lay_line"


def demo(
    output: Annotated[
        Path, typer.Option("--output", "-o", callback=to_fill, help="A folder for what comes out.")
    ] = Path("mooring-demo"),
) -> None:
    """The whole job on the line tender: CAD in; description, check, pictures and a run out."""
    from mooring.checks import check
    from mooring.cli.exercise import write_exercise
    from mooring.demo import LINE_TENDER
    from mooring.drawing import picture
    from mooring.exercising import exercise
    from mooring.exercising.report import summary, where
    from mooring.files import write_text
    from mooring.formats import read
    from mooring.simulation import Simulation, run_length
    from mooring.units import show

    began = time.perf_counter()
    output.mkdir(parents=True, exist_ok=True)
    document = output / LINE_TENDER.document.name
    for source in (LINE_TENDER.document, LINE_TENDER.step):
        shutil.copyfile(source, output / source.name)

    with busy("reading the CAD and the document"):
        robot = read(document)
    cad = robot.assemblies[0]
    kinds = len({id(part.geometry) for part in cad.parts})
    _heading("Read")
    say("{}: {} placed parts of {} kinds", cad.file.name, len(cad.parts), kinds)
    moving = sum(joint.moves for joint in robot.joints.values())
    say(
        "{}: {} links, {} joints ({} moving), {}, {} in all",
        document.name,
        len(robot.links),
        len(robot.joints),
        moving,
        counted(len(robot.closures), "closed loop"),
        show(robot.mass(), "mass"),
    )

    _heading("Checked")
    report = check(robot)
    write_text(output / "check.txt", f"{report}\n")
    print_report(report)

    _heading("Exercised")
    with busy("exercising"):
        done = exercise(robot)
    write_exercise(done, output)
    say("{} through their ranges: {}", counted(len(done.sweeps), "joint"), summary(done))
    if done.nearest is not None:
        near = f"{done.nearest.first} and {done.nearest.second}"
        gap = show(done.nearest.distance, "length", 3)
        say("smallest clearance: {}, {}, {}", near, gap, where(done, done.nearest))

    _heading("Exported")
    losses = robot.write(output / "line_tender.urdf")
    say("line_tender.urdf with its meshes; {} things URDF cannot carry", len(losses))

    _heading("Moved")
    simulation = Simulation(robot, motion=_MOTION)
    paced(simulation, run_length(simulation, None))
    recording = simulation.recording
    _say_what_moved(recording)

    with busy("drawing"):
        picture(robot, posture="over_ship").save(output / "over_ship.png")
        picture(
            robot, posture="stowed", layers=("visual", "collision", "axes"), view=(-40.0, 15.0)
        ).save(output / "collision_and_axes.png")
    with run_folder(output / "run", force=False) as work:
        _, lost = write_run(simulation, recording, work, plot=True, film=False, report=True)
    for words in lost:
        say("[bold red]not written:[/] {}", words)

    _heading("Wrote")
    say("[bold]{}/[/]", output)
    for name, what in _WHAT.items():
        say("  {}[dim]{}[/]", f"{name:<26}", what)
    say("\nDone in {} s. Next: edit {}, then", f"{time.perf_counter() - began:.1f}", document.name)
    say("  mooring check {}\n  mooring open {}", document, document)
    if not (report.ok and done.ok and recording.complete):
        raise typer.Exit(1)


_WHAT = {
    "line_tender.yaml": "the description, to read and edit",
    "line_tender.step": "the CAD it is made from",
    "line_tender.urdf": "the robot for other programs, with its meshes",
    "check.txt": "the findings",
    "exercise.md": "every joint through its range, in words",
    "exercise.png": "the same in pictures",
    "over_ship.png": "reaching over the ship's rail",
    "collision_and_axes.png": "collision shapes and joint axes",
    "run/report.html": "the run on one page, for a design review",
    "run/moments.png": "six moments of it",
    "run/motion.png": "positions and targets",
    "run/effort.png": "motor efforts against their limits",
    "run/energy.png": "where the motors' work went",
    "run/contacts.png": "when what touched what",
    "run/motion.glb": "the run as an animation, for any glTF viewer",
    "run/recording.csv": "positions, velocities, efforts, energies by name",
    "run/recording.parquet": "the same, to compute with",
    "run/recording.json": "what its columns mean, and what went wrong",
    "run/motors.csv": "what each motor did: peak and RMS effort, power, energy",
    "run/clearances.csv": "how near links came to each other",
    "run/end.state": "the state at its end, to go on from",
}


def _heading(text: str) -> None:
    say("\n[bold dark_cyan]{}[/]", text)


def _say_what_moved(recording: Recording) -> None:
    table = recording.table
    say(
        "motion {}, {} s, {} instants recorded",
        _MOTION,
        f"{table.index[-1]:.1f}",
        f"{len(table):,}",
    )
    for joint in recording.driven:
        degrees = recording.units[joint] == "rad"
        factor, unit = (57.29577951308232, "deg") if degrees else (1000.0, "mm")
        position = (table[f"{joint}.position"] * factor).round(1) + 0.0
        effort = table[f"{joint}.effort"].abs().max()
        share = 100 * effort / recording.limits[joint]
        say(
            "  {}{} .. {} {}  at most {}% of its effort limit",
            f"{joint:<16}",
            f"{position.min():>8.1f}",
            f"{position.max():>7.1f}",
            f"{unit:<4}",
            f"{share:>3.0f}",
        )
    for note in recording.notes:
        say("[dark_orange3]note:[/] {}", note)
    say_findings(recording)
