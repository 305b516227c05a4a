"""An assembly: everything that was read from one CAD file."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from mooring.arguments import proven_methods
from mooring.cad.assembly.places import Places
from mooring.cad.assembly.tidying import Tidying
from mooring.cad.part import NameRegister


@proven_methods
@dataclass(frozen=True, eq=False, repr=False)
class Assembly(Tidying, Places):
    """The placed parts of a CAD file.

    Attributes:
        name: of the assembly in the file, or of the file.
        file: where it was read from.
        parts: every placed part.
        notes: what the reader assumed, changed or left out.
        dropped: names of the parts that were dropped on purpose.
        frames: named places without geometry that the file holds, by name; a joint can be placed on
            one with `at=assembly.frames["tip"]`.
        kept: names of the parts that are neither dropped nor simplified.
        sources: the files it was read from, each with the unit that was given for it.
    """


def joined(assemblies: Sequence[Assembly]) -> Assembly:
    """Several assemblies as one; parts whose names are taken get a number."""
    if len(assemblies) == 1:
        return assemblies[0]
    names = NameRegister()
    parts, kept = [], set()
    for assembly in assemblies:
        for part in assembly.parts:
            name = names.unique(part.name)
            parts.append(replace(part, name=name))
            if part.name in assembly.kept:
                kept.add(name)
    return Assembly(
        " + ".join(a.name for a in assemblies[:3])
        + (f" + {len(assemblies) - 3} more" if len(assemblies) > 3 else ""),
        assemblies[0].file,
        tuple(parts),
        tuple(note for a in assemblies for note in a.notes),
        tuple(name for a in assemblies for name in a.dropped),
        {name: place for a in assemblies for name, place in a.frames.items()},
        frozenset(kept),
        tuple(source for a in assemblies for source in a.sources),
    )
