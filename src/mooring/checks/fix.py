"""Changes of a document that mend what was found, and cannot do harm."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal, NamedTuple

from mooring.errors import ModelError
from mooring.formats.editing import Editor, editor_of
from mooring.formats.urdf import UrdfEditor

if TYPE_CHECKING:
    from mooring.checks.finding import Finding


class Edit(NamedTuple):
    """One change.

    Attributes:
        kind: remove what is at a path, exchange what is at two paths, set what is at one, rename an
            item, or respell an element or attribute of a URDF file.
        one, other: paths; of setting the values; of a renaming the kind of item with its name, and
            the new name; of a respelling the line, the element and the attribute, and how it is
            spelt.
    """

    kind: Literal["remove", "exchange", "set", "rename", "respell"]
    one: tuple[str, ...]
    other: tuple[str, ...] = ()


def apply_fixes(
    file: Path, findings: Iterable[Finding], *, allow_outside: bool = False
) -> list[str]:
    """Make the changes that findings propose, with the file's comments kept.

    Args:
        file: the document.
        findings: of its robot.
        allow_outside: whether it may take things from outside its folder.

    Returns:
        What was done, a sentence each; and what could not be done, because it stands in another
        document.

    Raises:
        InputError: it is neither a YAML document nor a URDF file.
    """
    editor = editor_of(file, allow_outside)
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


def _apply(editor: Editor, edit: Edit) -> None:
    if edit.kind == "respell":
        if not isinstance(editor, UrdfEditor):
            raise ModelError("only a URDF file has elements")
        editor.respell(int(edit.one[0]), edit.one[1], edit.one[2], edit.other[0])
    elif edit.kind == "set":
        values: Any = [float(value) for value in edit.other]
        editor.set(edit.one, values if len(values) > 1 else values[0])
    elif edit.kind == "remove":
        editor.remove(edit.one)
    elif edit.kind == "rename":
        editor.rename(edit.one[0], edit.one[1], edit.other[0])
    else:
        one, other = editor.get(edit.one), editor.get(edit.other)
        editor.set(edit.one, other)
        editor.set(edit.other, one)
