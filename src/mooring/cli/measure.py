"""mooring measure: a table of dimensions against a robot."""

from __future__ import annotations

from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import typer

from mooring.cli.manner import manner
from mooring.cli.options import AllowOutside, RobotFile, Search
from mooring.cli.reading import read_robot
from mooring.cli.terminal import busy, hint, print_json, say, styled


def measure(
    table: Annotated[
        Path,
        typer.Argument(
            metavar="TABLE",
            help="Rows of theta, d, a, alpha: .csv with units in its heads (d [mm]), or .yaml.",
        ),
    ],
    robot: RobotFile,
    base: Annotated[
        str | None, typer.Option(help="The link it begins on; the robot's root if not given.")
    ] = None,
    end: Annotated[
        str | None, typer.Option(help="The frame or link where it ends, to compare that, too.")
    ] = None,
    convention: Annotated[
        str | None, typer.Option(help="standard or modified; standard if not given.")
    ] = None,
    allow_outside: AllowOutside = False,
    search: Search = None,
) -> None:
    """A table of link dimensions against a robot's axes; exit code 1 where they disagree."""

    from mooring.formats.dimensions import read_table
    from mooring.kinematics import measure as measured

    with busy("comparing"):
        read = read_robot(robot, allow_outside, search)
        said = {"base": base, "end": end, "convention": convention}
        report = measured(read, read_table(table, read, said))
    if manner.as_json:
        print_json(
            {
                "agrees": report.agrees,
                "errors": [asdict(miss) for miss in report.errors],
                "left": [asdict(miss) for miss in report.left],
                "corrections": [asdict(one) for one in report.corrections],
                "undetermined": list(report.undetermined),
                "other_convention": report.other_convention,
            }
        )
    else:
        for line in report.lines():
            say("{}", line)
        verdict = styled("[green4]agrees[/]" if report.agrees else "[red]disagrees[/]")
        say("[bold]{}[/] {} with {}", table.name, verdict, read.name)
        hint("check", robot)
    if not report.agrees:
        raise typer.Exit(1)
