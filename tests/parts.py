"""Parts made for tests, by the same words as the demo machines'."""

from __future__ import annotations

from pathlib import Path

from mooring import read_cad
from mooring.cad import Assembly
from mooring.demo.modelling import ball, box, cone, cut, cylinder, fuse, rounded
from mooring.demo.step_writer import Group, Product, write_step


def steel(name: str, solid: object, color: str = "#808080") -> Product:
    return Product(name, solid, color, "steel", 7850)


def made(folder: Path, *solids: tuple[str, object], name: str = "scene") -> Assembly:
    """The solids as parts of a STEP file, each in a sub-assembly of its own, read back."""
    group = Group(name)
    for part, solid in solids:
        group.place(Group(f"{part}_group").place(steel(part, solid)))
    file = folder / f"{name}.step"
    write_step(group, file)
    return read_cad(file)


def sampler() -> object:
    """A block with one of each: rounded edges, a countersunk and a blind bore, ball and socket."""
    block = rounded(box((0, 80), (0, 60), (0, 30)), 8, "z")
    through = (
        cylinder("z", (0, 30), 16, (20, 20, 0)),
        cone("z", (24, 30), (16, 28), (20, 20, 0)),
    )
    blind = (
        cylinder("z", (12, 30), 12, (50, 20, 0)),
        cone("z", (8.4, 12), (0, 12), (50, 20, 0)),
        cylinder("x", (-1, 30), 6, (0, 45, 15)),
    )
    return fuse(cut(block, *through, *blind, ball(24, (60, 45, 34))), ball(20, (20, 45, 36)))
