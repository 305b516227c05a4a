"""mooring draft: propose a robot from its CAD."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer
from rich.markup import escape

from mooring.cli.terminal import busy, counted, out
from mooring.errors import InputError


def draft(
    files: Annotated[
        list[Path],
        typer.Argument(
            metavar="FILE...", help="A CAD file, best STEP; or several, or a folder of meshes."
        ),
    ],
    output: Annotated[Path, typer.Option("--output", "-o", help="The document to write (.yaml).")],
    unit: Annotated[
        str | None, typer.Option(help="For mesh files: what the number 1 stands for.")
    ] = None,
    tolerance: Annotated[
        str | None,
        typer.Option(
            help="How far apart parts may be and still touch; by their size if not given."
        ),
    ] = None,
    force: Annotated[bool, typer.Option("--force", help="Write over a file.")] = False,
) -> None:
    """Propose links and joints from the geometry; a document to edit."""
    from mooring.cad import read_cad
    from mooring.cad.proposing import propose
    from mooring.files import write_text
    from mooring.formats.document.draft import draft_text
    from mooring.units import to_si

    if output.suffix.lower() not in (".yaml", ".yml"):
        raise InputError(f"{output}: a document ends in .yaml")
    if output.exists() and not force:
        raise InputError(f"{output}: is there already; give --force to write over it")
    near = None if tolerance is None else to_si(tolerance, "length")
    with busy(f"reading {files[0].name}"):
        assembly = read_cad(*files, unit=unit)
    with busy("looking for joints"):
        proposal = propose(assembly, near)
        write_text(output, draft_text(proposal, assembly, output))
    console = out()
    joints = [joint for joint in proposal.joints if not joint.closes]
    closures = len(proposal.joints) - len(joints)
    console.print(
        f"[bold]{escape(assembly.name)}[/]: {len(assembly.parts)} parts, "
        f"{counted(len(proposal.links), 'link')}, {counted(len(joints), 'joint')}, "
        f"{counted(closures, 'closure')}; "
        f"the base is {escape(proposal.base)}: {escape(proposal.base_reason)}"
    )
    for joint in proposal.joints:
        what = "closes the loop between" if joint.closes else f"{joint.kind}:"
        console.print(
            f"  [dark_cyan]{escape(joint.name)}[/]  {what} "
            f"{escape(joint.parent)} -> {escape(joint.child)}  "
            f"[dim]{joint.confidence}: {escape(joint.reason)}[/]",
        )
    for name, count, why in proposal.hardware:
        console.print(
            f"  hardware: {count} of {escape(name)}  [dim]{escape(why)}[/]", soft_wrap=True
        )
    for words in proposal.undecided:
        console.print(f"[dark_orange3]not decided:[/] {escape(words)}", soft_wrap=True)
    for note in [*assembly.notes, *proposal.notes]:
        console.print(f"[dark_orange3]note:[/] {escape(note)}", soft_wrap=True)
    console.print(f"wrote {output}", soft_wrap=True)
