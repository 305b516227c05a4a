"""The rules, by subject. Importing this package registers them."""

from mooring.checks.rules import (
    axes,
    geometry,
    inertia,
    limits,
    loops,
    motors,
    names,
    overlaps,
    parts,
    plausible,
    postures,
    reading,
    sizes,
    tables,
    tree,
    twins,
)

__all__ = [
    "axes",
    "geometry",
    "inertia",
    "limits",
    "loops",
    "motors",
    "names",
    "overlaps",
    "parts",
    "plausible",
    "postures",
    "reading",
    "sizes",
    "tables",
    "tree",
    "twins",
]
