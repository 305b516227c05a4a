"""Changes of a document that mend what was found, and cannot do harm."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING, Literal, NamedTuple

from mooring.errors import InputError, ModelError
from mooring.formats.document import DocumentEditor

if TYPE_CHECKING:
    from mooring.checks.finding import Finding


class Edit(NamedTuple):
    """One change.

    Attributes:
        kind: remove what is at a path, exchange what is at two paths, or rename an item.
        one, other: paths; of a renaming the kind of item with its name, and the new name.
    """

    kind: Literal["remove", "exchange", "rename"]
    one: tuple[str, ...]
    other: tuple[str, ...] = ()


def apply_fixes(file: Path, findings: Iterable[Finding]) -> list[str]:
    """Make the changes that findings propose, with the document's comments kept.

    Args:
        file: the document.
        findings: of its robot.

    Returns:
        What was done, a sentence each; and what could not be done, because it stands in another
        document.

    Raises:
        InputError: it is no YAML document.
    """
    if file.suffix.lower() not in (".yaml", ".yml"):
        raise InputError(f"{file}: only a document (.yaml) can be mended")
    editor = DocumentEditor(file)
    told = []
    wanted = [f for f in findings if f.fix and f.accepted is None]
    # Renaming comes last: the paths of the others hold the names that were found.
    for finding in sorted(wanted, key=lambda f: any(edit.kind == "rename" for edit in f.fix)):
        try:
            for edit in finding.fix:
                _apply(editor, edit)
        except ModelError:
            told.append(f"not mended: {finding.message}; it is written elsewhere")
        else:
            told.append(f"mended: {finding.message}")
    if told:
        editor.save()
    return told


def _apply(editor: DocumentEditor, edit: Edit) -> None:
    if edit.kind == "remove":
        editor.remove(edit.one)
    elif edit.kind == "rename":
        editor.rename(edit.one[0], edit.one[1], edit.other[0])
    else:
        one, other = editor.get(edit.one), editor.get(edit.other)
        editor.set(edit.one, other)
        editor.set(edit.other, one)
