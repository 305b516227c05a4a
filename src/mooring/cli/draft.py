"""mooring draft: propose a robot from its CAD."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from mooring.cli.options import Force, Unit
from mooring.cli.outputs import STANDARD, to_write
from mooring.cli.terminal import busy, changed, counted, hint, print_json, say, wrote
from mooring.errors import InputError

if TYPE_CHECKING:
    from mooring.cad.assembly.contents import Contents
    from mooring.cad.proposing import Proposal

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
            help="The document to write (.yaml), or to bring up to date; - for standard output.",
        ),
    ] = None,
    unit: Unit = None,
    tolerance: Annotated[
        str | None,
        typer.Option(
            help="How far apart parts may be and still touch; by their size if not given."
        ),
    ] = None,
    force: Force = False,
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
    if output != STANDARD and output.suffix.lower() not in _DOCUMENTS:
        raise InputError(f"{output}: a document ends in .yaml")
    near = None if tolerance is None else to_si(tolerance, "length")
    if not files or (output.exists() and not force):
        _again(output, files, unit, near)
        return
    with busy(f"reading {files[0].name}"):
        assembly = read_cad(*files, unit=unit)
    with busy("looking for joints"):
        proposal = propose(assembly, near)
        if output == STANDARD:
            text = draft_text(proposal, assembly, Path(f"{assembly.name}.yaml"))
            sys.stdout.write(text)
        else:
            write_text(output, draft_text(proposal, assembly, output))
            remember(output, assembly, proposal)
    notes = [
        f"{file} is outside the folder of {output.name}: read that with --allow-outside, or put an "
        f"empty file {PROJECT} into the folder that holds both"
        for file in files
        if output != STANDARD and is_outside(file, output)
    ]
    if output == STANDARD:
        notes.append("nothing of it is remembered: a second pass needs a file, -o robot.yaml")
    notes += [*assembly.notes, *proposal.notes]
    _say(assembly, proposal, notes)
    print_json(_as_dict(proposal) | {"file": str(output), "notes": notes})
    if output != STANDARD:
        wrote(output)
        hint("open", output)


def _as_dict(proposal: Proposal) -> dict[str, Any]:
    return {
        "base": proposal.base,
        "links": [link.name for link in proposal.links],
        "joints": [
            {
                "name": joint.name, "type": joint.kind, "parent": joint.parent,
                "child": joint.child, "closes": joint.closes, "sure": joint.confidence,
                "reason": joint.reason,
            }
            for joint in proposal.joints
        ],
        "hardware": [
            {"name": name, "copies": count, "reason": why} for name, count, why in proposal.hardware
        ],
        "undecided": list(proposal.undecided),
    }  # fmt: skip


def _say(assembly: Contents, proposal: Proposal, notes: list[str]) -> None:
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
    for note in notes:
        say("[dark_orange3]note:[/] {}", note)


def _again(document: Path, files: list[Path], unit: str | None, near: float | None) -> None:
    """The second pass."""
    from mooring.formats.document.drafting import redraft

    with busy(f"bringing {document.name} up to its CAD"):
        told = redraft(document, files, unit, near)
    for line in told:
        say("{}{}", changed(line[0]), line[1:])
    words = counted(len(told), "change") if told else "nothing changed"
    say("[bold]{}[/]: {}", document.name, words)
    print_json({"file": str(document), "changes": told})
    hint("open", document)
