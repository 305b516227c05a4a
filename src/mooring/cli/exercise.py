"""mooring exercise: every joint through its range."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from mooring.cli.manner import manner
from mooring.cli.options import AllowOutside, Film, Posture, RobotFile, Search
from mooring.cli.outputs import to_fill
from mooring.cli.reading import read_robot
from mooring.cli.terminal import busy, counted, hint, out, print_json, say, styled, wrote

if TYPE_CHECKING:
    from rich.text import Text

    from mooring.exercising import Exercise
    from mooring.kinematics import Workspace


def exercise(
    file: RobotFile,
    output: Annotated[
        Path, typer.Option("--output", "-o", callback=to_fill, help="A folder for what comes out.")
    ],
    posture: Posture = None,
    film: Film = False,
    reach: Annotated[
        str | None, typer.Option(metavar="FRAME", help="Also what this frame can reach.")
    ] = None,
    allow_outside: AllowOutside = False,
    search: Search = None,
) -> None:
    """Every joint through its range: contact sheet, overlaps, effort to hold; exit code 1 if it
    hits itself, is too weak to hold itself, or cannot take a posture."""
    from mooring.exercising import exercise as exercise_robot

    with busy(f"exercising {file.name}"):
        robot = read_robot(file, allow_outside, search)
        done = exercise_robot(robot, posture=posture)
    written = write_exercise(done, output, film)
    cloud = None if reach is None else _write_reach(done, reach, output)
    if cloud is not None:
        written += [output / f"reach_{reach}.png", output / f"reach_{reach}.csv"]
    if manner.as_json:
        from mooring.exercising.report import as_dict

        print_json({**as_dict(done), "files": [str(path) for path in written]})
    else:
        if cloud is not None:
            say("{}\n", cloud)
        print_exercise(done, written)
        hint(*(["run", file, "-o", f"{file.stem}-run"] if done.ok else ["open", file]))
    if not done.ok:
        raise typer.Exit(1)


def _write_reach(done: Exercise, frame: str, folder: Path) -> Workspace:
    from mooring.drawing.plots.workspace import plot_workspace
    from mooring.files import write_text
    from mooring.kinematics import workspace

    with busy("sampling what it reaches"):
        cloud = workspace(done.robot, frame)
        plot_workspace(done.robot, cloud, folder / f"reach_{frame}.png")
    table = cloud.table.to_csv(index=False, lineterminator="\n", float_format="%.6g")
    write_text(folder / f"reach_{frame}.csv", table)
    return cloud


def write_exercise(done: Exercise, folder: Path, film: bool = False) -> list[Path]:
    """The report, the contact sheets, and a film if asked."""
    from mooring.drawing.exercise import draw_film, draw_sheets
    from mooring.exercising.report import as_markdown
    from mooring.files import write_text

    folder.mkdir(parents=True, exist_ok=True)
    report = folder / "exercise.md"
    write_text(report, as_markdown(done))
    with busy("drawing"):
        written = [report, *draw_sheets(done, folder / "exercise.png")]
    if film:
        with busy("filming"):
            draw_film(done, folder / "exercise.mp4")
        written.append(folder / "exercise.mp4")
    return written


def print_exercise(done: Exercise, written: list[Path]) -> None:
    """The table of joints, then what was found."""
    from rich.table import Table

    from mooring.exercising.report import effort_cells, summary, where
    from mooring.model.definition.fields import dimension_of
    from mooring.units import show

    console = out()
    table = Table(box=None, header_style="bold", pad_edge=False)
    table.add_column("joint", no_wrap=True)
    for name in ("from", "to", "moves", "to hold it", "limit", "share"):
        table.add_column(name, justify="right", no_wrap=True)
    efforts = {effort.joint: effort for effort in done.efforts}
    for sweep in done.sweeps:
        position = dimension_of("position", sweep.motion)
        cells: list[Text | str] = [
            sweep.joint,
            show(sweep.lower, position, 3),
            show(sweep.upper, position, 3),
        ]
        cells.append(show(sweep.mass, "mass", 3))
        effort = efforts.get(sweep.joint)
        held, limit, share = effort_cells(effort)
        weak = effort is not None and effort.too_weak
        cells += [held, limit, styled("[red]{}[/]", share) if weak else share]
        table.add_row(*cells)
    console.print(table)
    say("\nmobility: {}; moved mass {}", done.mobility, show(done.mass, "mass"))
    for stop in done.stops:
        say("[dark_cyan]note[/] {}", stop)
    for words in done.unreachable:
        say("[bold red]error[/] {}", words)
    for meeting in done.overlaps:
        deep = show(-meeting.distance, "length", 3)
        say(
            "[bold red]overlap[/] {} and {}: {} deep, {}; {}",
            meeting.first,
            meeting.second,
            deep,
            where(done, meeting),
            meeting.proposal(),
        )
    near = done.nearest
    if near is not None:
        say(
            "smallest clearance: {} and {}, {}, {}",
            near.first,
            near.second,
            show(near.distance, "length", 3),
            where(done, near),
        )
    if done.possible_overlaps:
        pairs = ", ".join(f"{m.first}-{m.second}" for m in done.possible_overlaps[:4])
        more = len(done.possible_overlaps) - 4
        say(
            "[dark_cyan]note[/] with several joints away from home {} of links can hit: {}{}",
            counted(len(done.possible_overlaps), "pair"),
            pairs,
            f" and {more} more" if more > 0 else "",
        )
    for words in done.unjudged:
        say("[dark_orange3]not judged[/] {}", words)
    clear = "dark_orange3" if done.unjudged else "green4"
    color = clear if done.ok else "red"
    say(f"[bold]{{}}[/]: [{color}]{{}}[/]", done.robot.name, summary(done))
    wrote(*written)
