"""mooring check: what is wrong with a robot."""

from __future__ import annotations

from typing import TYPE_CHECKING

import typer

from mooring.cli.terminal import MARKS, AllowOutside, Json, RobotFile, Search, busy, out, print_json

if TYPE_CHECKING:
    from mooring.checks import Report


def check(
    file: RobotFile, allow_outside: AllowOutside = False, search: Search = None, json: Json = False
) -> None:
    """Look for everything that is wrong with a robot; exit code 1 when there are errors."""
    from mooring.checks import check as check_robot
    from mooring.formats import read

    with busy(f"checking {file.name}"):
        robot = read(file, allow_outside=allow_outside, search=search or ())
        report = check_robot(robot)
    if json:
        print_json(report.as_dict() | {"notes": robot.notes})
    else:
        print_report(report)
        for note in robot.notes:
            out().print(f"[dark_cyan]read:[/] {note}", soft_wrap=True)
    if not report.ok:
        raise typer.Exit(1)


def print_report(report: Report) -> None:
    """A paragraph a finding, then the sum."""
    from rich.markup import escape

    console = out()
    for finding in report:
        where = f"{finding.place}: " if finding.place is not None else ""
        console.print(
            f"{escape(where)}{MARKS[finding.severity]} [bold]{finding.code}[/]: "
            f"{escape(finding.message)}",
            soft_wrap=True,
        )
        console.print(f"    [dim]{escape(finding.remedy)}[/]", soft_wrap=True)
    color = "green4" if report.ok else "red"
    console.print(f"[bold]{escape(report.robot)}[/]: [{color}]{report.summary()}[/]")
