"""mooring check: what is wrong with a robot."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from mooring.cli.outputs import to_write
from mooring.cli.terminal import (
    STYLES,
    AllowOutside,
    Json,
    RobotFile,
    Search,
    busy,
    print_json,
    say,
    styled,
)
from mooring.errors import InputError

if TYPE_CHECKING:
    from mooring.checks import Report


def check(
    file: RobotFile,
    fix: Annotated[
        bool, typer.Option("--fix", help="Mend in the document what is safe to mend.")
    ] = False,
    accepted: Annotated[
        bool, typer.Option("--accepted", help="Show what the document accepts as well.")
    ] = False,
    sarif: Annotated[
        Path | None,
        typer.Option(callback=to_write, help="Write the findings as SARIF 2.1.0 for code review."),
    ] = None,
    report_file: Annotated[
        Path | None,
        typer.Option(
            "--report",
            callback=to_write,
            help="Write an .html report with pictures and tables, for A4.",
        ),
    ] = None,
    allow_outside: AllowOutside = False,
    search: Search = None,
    json: Json = False,
) -> None:
    """Look for everything that is wrong with a robot; exit code 1 when there are errors."""
    from mooring.checks import apply_fixes
    from mooring.checks import check as check_robot
    from mooring.formats import read

    try:
        with busy(f"checking {file.name}"):
            robot = read(file, allow_outside=allow_outside, search=search or ())
            report = check_robot(robot)
    except InputError as error:
        _answer_refused(file, error, sarif, json)
        raise
    mended: list[str] = []
    if fix:
        mended = apply_fixes(file, report, allow_outside=allow_outside)
        if mended:
            robot = read(file, allow_outside=allow_outside, search=search or ())
            report = check_robot(robot)
    if sarif is not None:
        _write_sarif(report, sarif)
    if report_file is not None:
        from mooring.drawing.report import report_robot

        with busy("writing the report"):
            report_robot(robot, report, report_file)
    if json:
        notes = [str(note) for note in robot.notes]
        print_json(report.as_dict() | {"notes": notes, "mended": mended})
    else:
        for words in mended:
            say("[green4]{}[/]", words)
        print_report(report, accepted)
        for note in robot.notes:
            if not note.code:
                say("[dark_cyan]read:[/] {}", str(note))
        if report_file is not None:
            say("wrote {}", report_file)
    if not report.ok:
        raise typer.Exit(1)


def _answer_refused(file: Path, error: InputError, sarif: Path | None, json: bool) -> None:
    """Programs get their answer also where a file cannot be read at all."""
    from mooring.checks import Report

    report = Report.refused(file, error)
    if sarif is not None:
        _write_sarif(report, sarif)
    if json:
        print_json(report.as_dict() | {"notes": [], "mended": []})


def print_report(report: Report, accepted: bool = False) -> None:
    """A paragraph a finding, then the sum."""
    for finding in report.findings if accepted else report.open:
        where = f"{finding.place}: " if finding.place is not None else ""
        say(
            "{}{} [bold]{}[/]: {}",
            where,
            styled(f"[{STYLES[finding.severity]}]{{}}[/]", finding.severity),
            finding.code,
            finding.message,
        )
        remedy = finding.remedy
        if finding.accepted is not None:
            remedy = f"accepted: {finding.accepted}"
        elif finding.fix:
            remedy += " (--fix does it)"
        say("    [dim]{}[/]", remedy)
    color = "green4" if report.ok else "red"
    say(f"[bold]{{}}[/]: [{color}]{{}}[/]", report.robot, report.summary())


def _write_sarif(report: Report, file: Path) -> None:
    import json

    from mooring import __version__
    from mooring.checks.sarif import as_sarif
    from mooring.files import write_text

    told = as_sarif(report, __version__, Path.cwd())
    write_text(file, json.dumps(told, indent=1, ensure_ascii=False) + "\n")
