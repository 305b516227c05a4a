"""mooring check: what is wrong with a robot."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from mooring.cli.manner import manner
from mooring.cli.options import AllowOutside, RobotFile, Search
from mooring.cli.outputs import STANDARD, to_write, written
from mooring.cli.reading import source
from mooring.cli.terminal import STYLES, busy, hint, print_json, say, styled, wrote
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
) -> None:
    """Look for everything that is wrong with a robot; exit code 1 when there are errors."""
    from mooring.checks import apply_fixes
    from mooring.checks import check as check_robot
    from mooring.formats import read

    file, text = source(file)
    if fix and text is not None:
        raise InputError("standard input: --fix mends a file; name one")
    try:
        with busy(f"checking {file.name}"):
            robot = read(file, allow_outside=allow_outside, search=search or (), text=text)
            report = check_robot(robot)
    except InputError as error:
        _answer_refused(file, error, sarif)
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

        with busy("writing the report"), written(report_file, ".html") as page:
            report_robot(robot, report, page)
    if manner.as_json:
        notes = [str(note) for note in robot.notes]
        print_json(report.as_dict() | {"notes": notes, "mended": mended})
    else:
        for words in mended:
            say("[green4]{}[/]", words)
        print_report(report, accepted)
        for note in robot.notes:
            if not note.code:
                say("[dark_cyan]read:[/] {}", str(note))
        wrote(*(file for file in (sarif, report_file) if file not in (None, STANDARD)))
        if text is None:
            _say_next(file, report, fix)
    if not report.ok:
        raise typer.Exit(1)


def _say_next(file: Path, report: Report, fixed: bool) -> None:
    if report.ok:
        hint("exercise", file, "-o", f"{file.stem}-exercised")
    elif not fixed and any(finding.fix for finding in report.open):
        hint("check", file, "--fix")
    else:
        hint("open", file)


def _answer_refused(file: Path, error: InputError, sarif: Path | None) -> None:
    """Programs get their answer also where a file cannot be read at all."""
    from mooring.checks import Report

    report = Report.refused(file, error)
    if sarif is not None:
        _write_sarif(report, sarif)
    if manner.as_json:
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
    with written(file, ".sarif") as path:
        write_text(path, json.dumps(told, indent=1, ensure_ascii=False) + "\n")
