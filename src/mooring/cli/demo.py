"""mooring demo: the whole job on one of the demo machines, or a run of one of their scenes."""

from __future__ import annotations

import shutil
import time
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from mooring.cli.check import print_report
from mooring.cli.options import Folder
from mooring.cli.run import as_dict, say_findings
from mooring.cli.running import paced, run_folder, write_run
from mooring.cli.terminal import busy, counted, hint, print_json, say
from mooring.errors import ModelError

if TYPE_CHECKING:
    from mooring.demo import Demo
    from mooring.model import Robot
    from mooring.model.scene import Scene
    from mooring.simulation import Recording

_FIRST = "line_tender"


def demo(
    name: Annotated[
        str, typer.Argument(metavar="[NAME]", help="Of a machine or a scene.")
    ] = _FIRST,
    output: Folder = None,
    only_list: Annotated[
        bool, typer.Option("--list", help="Only list the machines and scenes there are.")
    ] = False,
) -> None:
    """The whole job on a demo machine: CAD in; description, check, pictures and a run out.

    Of a scene the run alone. The files come with it, to be edited; mooring-demo if no folder is
    named.
    """
    from mooring.demo import DEMOS

    if only_list:
        for key, one in DEMOS.items():
            say("[bold]{}[/] {}", f"{key:<13}", one.about)
        print_json({key: one.about for key, one in DEMOS.items()})
        hint("demo", "quay", "-o", "quay")
        return
    if name not in DEMOS:
        raise ModelError(f"no demo is called {name!r}; there are {', '.join(DEMOS)}")
    folder = output or Path("mooring-demo")
    _show(DEMOS[name], folder)


def _show(what: Demo, output: Path) -> None:
    from mooring.demo import DEMOS
    from mooring.formats import read_scene

    began = time.perf_counter()
    output.mkdir(parents=True, exist_ok=True)
    for source in what.files:
        shutil.copyfile(source, output / source.name)
    document = output / what.document.name
    with busy("reading the CAD and the document"):
        scene = read_scene(document)
    _heading("Read")
    _say_what_is_there(scene, document)
    told: dict[str, Any] = {"document": str(document), "folder": str(output)}
    good = True
    if scene.alone:
        good, found = _work_on(scene.robot, document, what.picture)
        told |= found
    recording = _move(scene, output, plain=scene.alone)
    told["run"] = as_dict(recording)
    _heading("Wrote")
    say("[bold]{}/[/]", output)
    for file, about in _WHAT.items():
        path = output / file.format(document.stem, what.picture or "neutral")
        if path.exists():
            say("  {}[dim]{}[/]", f"{path.relative_to(output).as_posix():<26}", about)
    for other in DEMOS.values():
        if other.document.parent == what.document.parent and other is not what:
            say("  {}[dim]{}[/]", f"{other.document.name:<26}", other.about)
    told["files"] = [str(path) for path in sorted(output.rglob("*")) if path.is_file()]
    print_json(told)
    say("\nDone in {} s; {} is there to edit", f"{time.perf_counter() - began:.1f}", document.name)
    if scene.alone:
        hint("check", document)
        hint("open", document)
    else:
        hint("open", output / "run")
    if not (good and recording.complete):
        raise typer.Exit(1)


def _say_what_is_there(scene: Scene, document: Path) -> None:
    from mooring.units import show

    robot = scene.robot
    for cad in robot.assemblies:
        kinds = len({id(part.geometry) for part in cad.parts})
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


def _work_on(robot: Robot, document: Path, posture: str | None) -> tuple[bool, dict[str, Any]]:
    """Check, exercise, export and draw a machine: whether it is sound, and what was found."""
    from mooring.checks import check
    from mooring.cli.exercise import write_exercise
    from mooring.drawing import picture
    from mooring.exercising import exercise
    from mooring.exercising.report import as_dict as as_plain
    from mooring.exercising.report import summary, where
    from mooring.files import write_text
    from mooring.units import show

    output = document.parent
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
    urdf = document.with_suffix(".urdf")
    losses = robot.write(urdf)
    say("{} with its meshes; {} URDF cannot carry", urdf.name, counted(len(losses), "thing"))
    with busy("drawing"):
        picture(robot, posture=posture).save(output / f"{posture or 'neutral'}.png")
        first = next(iter(robot.postures), None)
        picture(
            robot, posture=first, layers=("visual", "collision", "axes"), view=(-40.0, 15.0)
        ).save(output / "collision_and_axes.png")
    found = {"check": report.as_dict(), "exercise": as_plain(done), "not_carried": losses}
    return report.ok and done.ok, found


def _move(scene: Scene, output: Path, plain: bool) -> Recording:
    """A run: the machine's motion, or the scene's; of what has none, what it does by itself."""
    from mooring.simulation import Simulation, run_length

    _heading("Moved")
    robot = scene.robot
    if scene.motion is not None:
        what, simulation = f"the motion of {scene.name}", Simulation(scene)
    elif robot.motions:
        motion = next(iter(robot.motions))
        what, simulation = f"motion {motion}", Simulation(scene, motion=motion)
    else:
        posture = "standing" if "standing" in robot.postures else None
        what = f"posture {posture or 'neutral'} held"
        simulation = Simulation(scene, motion=[], posture=posture)
    paced(simulation, run_length(simulation, None))
    recording = simulation.recording
    _say_what_moved(recording, what)
    with run_folder(output / "run", force=False) as work:
        _, lost = write_run(simulation, recording, work, plot=True, film=False, report=plain)
    for words in lost:
        say("[bold red]not written:[/] {}", words)
    return recording


_WHAT = {
    "{0}.yaml": "the description, to read and edit",
    "{0}.step": "the CAD it is made from",
    "{0}.urdf": "the robot for other programs, with its meshes",
    "check.txt": "the findings",
    "exercise.md": "every joint through its range, in words",
    "exercise.png": "the same in pictures",
    "{1}.png": "how it stands in that posture",
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


def _say_what_moved(recording: Recording, what: str) -> None:
    table = recording.table
    say("{}, {} s, {} instants recorded", what, f"{table.index[-1]:.1f}", f"{len(table):,}")
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
