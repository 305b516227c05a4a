"""What a document's `cad:` entry makes of the parts of a file."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np

from mooring.cad import Assembly, BoxCut, CreaseCut, CylinderCut, NeckCut, PlaneCut, read_cad
from mooring.cad.tidying.cutting import Cut
from mooring.errors import InputError, ModelError
from mooring.formats.document.entries import CadEntry, CutEntry
from mooring.model.definition.problems import EntryError, define

Reader = Callable[[Path, str | None, float | None], Assembly]
"""Of a file, with the unit and the tolerance."""


def read_entry(folder: Path, entry: Mapping[str, Any], read: Reader | None = None) -> Assembly:
    """The parts of an entry, read and tidied.

    Args:
        folder: of the document.
        entry: of its `cad:`.
        read: instead of `read_cad`.

    Raises:
        EntryError: what is wrong, under the key where it was written.
    """
    cad = define(CadEntry, "cad", entry)
    try:
        path = folder / cad.file
        if read is not None:
            assembly = read(path, cad.unit, cad.tolerance)
        else:
            assembly = read_cad(path, unit=cad.unit, tolerance=cad.tolerance)
    except InputError as error:
        raise EntryError("cad", [(("file",), str(error))]) from None
    return tidied(assembly, cad)


def tidied(assembly: Assembly, entry: CadEntry) -> Assembly:
    """The parts that are wanted, as they are wanted; each step works on what those before left.

    Raises:
        EntryError: what goes wrong, under the key where it was written.
    """
    if entry.keep:
        with _written_under("keep"):
            assembly = assembly.keep(*entry.keep)
    if entry.only or entry.only_colors:
        with _written_under("only" if entry.only else "only_colors"):
            assembly = assembly.only(*entry.only, color=entry.only_colors or None)
    for name in entry.split:
        with _written_under("split"):
            assembly = assembly.split(name)
    for name, cuts in entry.cut.items():
        with _written_under("cut", name):
            assembly = assembly.cut(name, *(_cut(assembly, cut) for cut in cuts))
    for name, patterns in entry.join.items():
        with _written_under("join", name):
            assembly = assembly.join(name, *patterns)
    with _written_under("rename"):
        assembly = assembly.rename(entry.rename)
    if entry.repair:
        assembly = assembly.repair()
    if entry.drop_colors:
        with _written_under("drop_colors"):
            assembly = assembly.drop(color=entry.drop_colors)
    with _written_under("drop"):
        assembly = assembly.drop(
            *entry.drop,
            smaller_than=entry.smaller_than,
            larger_than=entry.larger_than,
            hardware=entry.drop_hardware,
            hidden=entry.drop_hidden,
        )
    if entry.simplify is not None:
        how = entry.simplify
        with _written_under("simplify"):
            assembly = assembly.simplify(
                *how.parts, triangles=how.triangles, tolerance=how.tolerance
            )
    return assembly


def _cut(assembly: Assembly, entry: CutEntry) -> Cut:
    if entry.plane is not None and entry.plane.through is not None:
        return PlaneCut(np.array(entry.plane.through), np.array(entry.plane.normal))
    if entry.plane is not None:
        parts = assembly.pick(*entry.plane.face)
        face = assembly.face(parts, entry.plane.toward or (), near=entry.plane.near)
        return PlaneCut(face.origin, face.direction)
    if entry.box is not None:
        return BoxCut(*map(np.array, entry.box))
    if entry.cylinder is not None:
        ends = np.array(entry.cylinder.start), np.array(entry.cylinder.end)
        return CylinderCut(*ends, entry.cylinder.radius)
    if entry.creases is not None:
        return CreaseCut(entry.creases)
    return NeckCut(None if entry.neck in (None, "narrowest") else np.array(entry.neck))


@contextmanager
def _written_under(*path: str) -> Iterator[None]:
    """Say under which key what goes wrong was written."""
    try:
        yield
    except ModelError as error:
        raise EntryError("cad", [(path, str(error))]) from None
