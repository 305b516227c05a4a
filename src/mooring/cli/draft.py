"""mooring draft: propose a robot from its CAD."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from mooring.cli.outputs import to_write
from mooring.cli.terminal import (
    busy,
    changed,
    counted,
    say,
)
from mooring.errors import InputError

_DOCUMENTS = (".yaml", ".yml")


def draft(
    files: Annotated[
        list[Path],
        typer.Argument(
            metavar="FILE...", help="A CAD file, best STEP; or several, or a folder of meshes."
        ),
    ],
    output: Annotated[
        Path | None,
        typer.Option(
            "--output",
            "-o",
            callback=to_write,
            help="The document to write (.yaml), or to bring up to date.",
        ),
    ] = None,
    unit: Annotated[
        str | None, typer.Option(help="For mesh files: what the number 1 stands for.")
    ] = None,
    tolerance: Annotated[
        str | None,
        typer.Option(
            help="How far apart parts may be and still touch; by their size if not given."
        ),
    ] = None,
    force: Annotated[
        bool, typer.Option("--force", help="Write a document anew that is there already.")
    ] = False,
) -> None:
    """Propose links and joints from the geometry; a document to edit.

    A document that is there already is brought up to the CAD, which may have changed: what was
    edited stays. For that it may also be given alone.
    """
    from mooring.cad import read_cad
    from mooring.cad.proposing import propose
    from mooring.files import write_text
    from mooring.formats.document.drafting import draft_text, remember
    from mooring.formats.document.session import PROJECT, is_outside
    from mooring.units import to_si

    if output is None and len(files) == 1 and files[0].suffix.lower() in _DOCUMENTS:
        output, files = files[0], []
    if output is None:
        raise InputError("say which document to write: -o robot.yaml")
    if output.suffix.lower() not in _DOCUMENTS:
        raise InputError(f"{output}: a document ends in .yaml")
    near = None if tolerance is None else to_si(tolerance, "length")
    if not files or (output.exists() and not force):
        _again(output, files, unit, near)
        return
    with busy(f"reading {files[0].name}"):
        assembly = read_cad(*files, unit=unit)
    with busy("looking for joints"):
        proposal = propose(assembly, near)
        write_text(output, draft_text(proposal, assembly, output))
        remember(output, assembly, proposal)
    for file in files:
        if is_outside(file, output):
            say(
                "[dark_orange3]note:[/] {} is outside the folder of {}: read that with "
                "--allow-outside, or put an empty file {} into the folder that holds both",
                file, output.name, PROJECT,
            )  # fmt: skip
    joints = [joint for joint in proposal.joints if not joint.closes]
    closures = len(proposal.joints) - len(joints)
    say(
        "[bold]{}[/]: {} parts, {}, {}, {}; the base is {}: {}",
        assembly.name,
        len(assembly.parts),
        counted(len(proposal.links), "link"),
        counted(len(joints), "joint"),
        counted(closures, "closure"),
        proposal.base,
        proposal.base_reason,
    )
    for joint in proposal.joints:
        what = "closes the loop between" if joint.closes else f"{joint.kind}:"
        say(
            "  [dark_cyan]{}[/]  {} {} -> {}  [dim]{}: {}[/]",
            joint.name,
            what,
            joint.parent,
            joint.child,
            joint.confidence,
            joint.reason,
        )
    for driven, part in proposal.motors:
        say("  motor: {} on the axis of {}", part, driven)
    for name, count, why in proposal.hardware:
        say("  hardware: {} of {}  [dim]{}[/]", count, name, why)
    for words in proposal.undecided:
        say("[dark_orange3]not decided:[/] {}", words)
    for note in [*assembly.notes, *proposal.notes]:
        say("[dark_orange3]note:[/] {}", note)
    say("wrote {}", output)


def _again(document: Path, files: list[Path], unit: str | None, near: float | None) -> None:
    """The second pass."""
    from mooring.formats.document.drafting import redraft

    with busy(f"bringing {document.name} up to its CAD"):
        told = redraft(document, files, unit, near)
    for line in told:
        say("{}{}", changed(line[0]), line[1:])
    words = counted(len(told), "change") if told else "nothing changed"
    say("[bold]{}[/]: {}", document.name, words)
