"""Changing a description by program, in whatever format it is written."""

from __future__ import annotations

from pathlib import Path

from mooring.errors import InputError
from mooring.formats.document import DocumentEditor
from mooring.formats.document.source import rewrite, text_of
from mooring.formats.urdf import UrdfEditor
from mooring.formats.urdf.source import decoded, encoded

DOCUMENTS = (".yaml", ".yml")
EDITABLE = (*DOCUMENTS, ".urdf")
Editor = DocumentEditor | UrdfEditor


def editor_of(file: Path, allow_outside: bool = False) -> Editor:
    """What changes a file.

    Args:
        file: which.
        allow_outside: whether it may take things from outside its folder.

    Raises:
        InputError: it cannot be changed, is missing, or cannot be read as it is.
    """
    suffix = file.suffix.lower()
    if suffix == ".urdf":
        return UrdfEditor(file)
    if suffix in DOCUMENTS:
        return DocumentEditor(file, allow_outside=allow_outside)
    known = ", ".join(EDITABLE)
    raise InputError(f"{file}: cannot be changed; what can is in files ending in {known}")


def read_back(file: Path) -> str:
    """The text of a file that can be changed."""
    return decoded(file.read_bytes()) if file.suffix.lower() == ".urdf" else text_of(file)


def write_back(file: Path, text: str) -> None:
    """Write another text, in the encoding that the file has."""
    if file.suffix.lower() == ".urdf":
        encoded(file, text)
    else:
        rewrite(file, text)
