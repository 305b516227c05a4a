"""mooring parts: what is in a CAD file."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from mooring.cli.manner import manner
from mooring.cli.options import Unit
from mooring.cli.outputs import to_write
from mooring.cli.terminal import busy, counted, hint, out, print_json, say, strung, styled, wrote

if TYPE_CHECKING:
    from mooring.cad import Assembly, Part
    from mooring.cad.surfaces import Surface


@dataclass(frozen=True)
class _Kind:
    """All copies of one part."""

    copies: list[Part]

    @property
    def one(self) -> Part:
        return self.copies[0]

    def as_dict(self) -> dict[str, Any]:
        geometry, part = self.one.geometry, self.one
        return {
            "name": geometry.name or part.name,
            "copies": [{"name": p.name, "path": p.path} for p in self.copies],
            "size_m": [float(v) for v in part.size],
            "triangles": len(part.mesh.faces),
            "volume_m3": part.volume,
            "volume_from": geometry.source,
            "closed": geometry.closed,
            "bodies": geometry.bodies,
            "open_edges": part.mesh.open_edges,
            "inside_out": part.mesh.inside_out,
            "bores": [
                {
                    "radius_m": bore.radius,
                    "length_m": bore.length,
                    "centre_m": bore.centre.tolist(),
                    "direction": bore.direction.tolist(),
                    "through": bore.through,
                    "residual_m": bore.residual,
                }
                for bore in part.bores
            ],
            "faces": dict(sorted(Counter(_face(s) for s in geometry.surfaces).items())),
            "color": part.color,
            "material": None if part.material is None else part.material.name,
            "density_kg_m3": None if part.material is None else part.material.density,
        }


def parts(
    files: Annotated[
        list[Path],
        typer.Argument(
            metavar="FILE...",
            help="STEP, STL, OBJ, PLY, OFF, glTF, COLLADA or 3MF; or a folder of them.",
        ),
    ],
    unit: Unit = None,
    tolerance: Annotated[
        str | None, typer.Option(help="For STEP: how far triangles may be off, e.g. '0.1 mm'.")
    ] = None,
    picture: Annotated[
        Path | None,
        typer.Option(
            callback=to_write,
            help="Draw every distinct part, and the assembly pulled apart, as .png.",
        ),
    ] = None,
    hidden: Annotated[
        bool, typer.Option(help="List the parts that nobody can see from outside.")
    ] = False,
    hardware: Annotated[
        bool, typer.Option(help="List what looks like screws, nuts and washers, and why.")
    ] = False,
) -> None:
    """What is in a CAD file: parts, copies, sizes, triangles, volumes, bores, trouble."""
    from mooring.cad import read_cad

    with busy(f"reading {files[0].name}"):
        assembly = read_cad(*files, unit=unit, tolerance=tolerance)
    distinct = [_Kind(copies) for copies in assembly.kinds()]
    written = []
    if picture is not None:
        from mooring.drawing import draw_parts

        with busy("drawing"):
            written = draw_parts(assembly, picture)
    if manner.as_json:
        low, high = assembly.bounds
        print_json(
            {
                "name": assembly.name,
                "file": str(assembly.file),
                "placed_parts": len(assembly.parts),
                "distinct_parts": len(distinct),
                "bounds_m": [low.tolist(), high.tolist()],
                "notes": list(assembly.notes),
                "frames": {name: f.matrix.tolist() for name, f in assembly.frames.items()},
                "hidden": [part.name for part in assembly.hidden()] if hidden else None,
                "hardware": [
                    {"name": h.name, "copies": len(h.parts), "reasons": list(h.reasons)}
                    for h in assembly.hardware()
                ],
                "parts": [kind.as_dict() for kind in distinct],
                "pictures": [str(path) for path in written],
            }
        )
        return
    _print_table(assembly, distinct)
    if hardware:
        _print_hardware(assembly)
    if hidden:
        _print_hidden(assembly)
    wrote(*written)
    hint("draft", *files, *(["--unit", unit] if unit else []), "-o", f"{assembly.name}.yaml")


def _print_hardware(assembly: Assembly) -> None:
    found = assembly.hardware()
    total = sum(len(kind.parts) for kind in found)
    say("\n[bold]hardware[/]: {} of {}", counted(total, "part"), counted(len(found), "kind"))
    for kind in found:
        say("  {} x {}  [dim]{}[/]", f"{len(kind.parts):>3}", kind.name, "; ".join(kind.reasons))
    if found:
        say("leave them out with drop_hardware: true, or by name with drop:")


def _print_hidden(assembly: Assembly) -> None:
    with busy("looking from all sides"):
        found = assembly.hidden()
    say("\n[bold]hidden[/]: {}", counted(len(found), "part"))
    for part in found:
        say("  {}  [dim]{}[/]", part.name, part.path)
    if found:
        say("leave them out with drop_hidden: true, or by name with drop:")


def _face(surface: Surface) -> str:
    kind = getattr(surface, "kind", type(surface).__name__.lower())
    return str(kind)


def _print_table(assembly: Assembly, distinct: list[_Kind]) -> None:
    from rich.table import Table

    from mooring.units import show

    table = Table(box=None, header_style="bold", pad_edge=False)
    table.add_column("part", no_wrap=True)
    for heading in ("copies", "size [mm]", "triangles", "volume", "bores"):
        table.add_column(heading, justify="right", no_wrap=True)
    # In a narrow window the end of the material's name goes first.
    table.add_column("material", no_wrap=True, overflow="ellipsis", ratio=1)
    for kind in distinct:
        part, geometry = kind.one, kind.one.geometry
        trouble = []
        if not geometry.closed:
            edges = part.mesh.open_edges
            words = f"open, {counted(edges, 'edge')}" if edges else "faces in and out"
            trouble.append(styled("[red]{}[/]", words))
        elif part.mesh.inside_out:
            trouble.append(styled("[red]inside out[/]"))
        if geometry.bodies > 1:
            trouble.append(styled("[dark_orange3]{} bodies[/]", geometry.bodies))
        swatch = styled(f"[{part.color}]■[/] ") if part.color else styled("  ")
        table.add_row(
            styled("{}{}", swatch, geometry.name or part.name),
            str(len(kind.copies)),
            " x ".join(f"{1000 * v:.4g}" for v in part.size),
            f"{len(part.mesh.faces):,}",
            show(part.volume, "volume", 4),
            str(len(part.bores) or ""),
            strung(", ", [*trouble, *([part.material.name] if part.material else [])]),
        )
    console = out()
    console.print(table)
    low, high = assembly.bounds
    size = " x ".join(f"{v:.4g}" for v in high - low)
    triangles = sum(len(p.mesh.faces) for p in assembly.parts)
    volume = show(sum(p.volume for p in assembly.parts), "volume")
    weights = [
        p.volume * p.material.density for p in assembly.parts if p.material and p.material.density
    ]
    say(
        "\n[bold]{}[/]: {} of {}, {} m, {} triangles, {}",
        assembly.name,
        counted(len(assembly.parts), "placed part"),
        counted(len(distinct), "kind"),
        size,
        f"{triangles:,}",
        volume,
    )
    if weights:
        say(
            "mass by the file's materials: {} ({} of {} parts have one)",
            show(sum(weights), "mass"),
            len(weights),
            len(assembly.parts),
        )
    if assembly.frames:
        say("frames: {}", ", ".join(assembly.frames))
    for note in assembly.notes:
        say("[dark_orange3]note:[/] {}", note)
