"""What a document's `cad:` entry makes of the parts of a file."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from mooring.cad import Assembly
from mooring.errors import ModelError
from mooring.formats.document.entries import CadEntry
from mooring.model.definition.problems import EntryError


def tidied(assembly: Assembly, entry: CadEntry) -> Assembly:
    """The parts that are wanted: split, joined and mended, the rest left out, then simplified.

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
    for name, patterns in entry.join.items():
        with _written_under("join", name):
            assembly = assembly.join(name, *patterns)
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


@contextmanager
def _written_under(*path: str) -> Iterator[None]:
    """Say under which key what goes wrong was written."""
    try:
        yield
    except ModelError as error:
        raise EntryError("cad", [(path, str(error))]) from None
