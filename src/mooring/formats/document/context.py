"""What a document's entries are read with: its robot, its CAD, and files beside it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from mooring.cad import Assembly, Axis, Frame, Part
from mooring.errors import InputError, ModelError
from mooring.formats.document.entries import MeshEntry
from mooring.formats.document.places import FOUND_BY
from mooring.formats.document.session import Session
from mooring.model import Hull, MeshShape, PlacedShape, Robot
from mooring.model.definition.context import Context
from mooring.model.definition.problems import EntryError, define


class DocumentContext(Context):
    """The context of one document.

    Args:
        robot: that the document describes.
        folder: of the document.
        session: of which its reading is a part.
    """

    def __init__(self, robot: Robot, folder: Path, session: Session) -> None:
        super().__init__(robot)
        self.folder = folder
        self.session = session
        self.assembly: Assembly | None = None

    def parts(self, patterns: Sequence[str]) -> tuple[Part, ...]:
        if self.assembly is None:
            raise self._without_cad("parts")
        return tuple(self.assembly.pick(*patterns))

    def place(self, entry: Mapping[str, Any]) -> Axis | Frame | None:
        key = next((key for key in FOUND_BY if key in entry), None)
        if key is None:
            return None
        if self.assembly is None:
            raise self._without_cad(key)
        said = define(FOUND_BY[key], "at", entry)
        try:
            return said.found(self.assembly)
        except ModelError as error:
            raise EntryError("at", [((key,), str(error))]) from None

    def mesh(self, entry: Mapping[str, Any]) -> PlacedShape:
        said = define(MeshEntry, "mesh", entry, self)
        key = "mesh" if said.mesh is not None else "hull"
        file = self.folder / (said.mesh or said.hull or "")
        try:
            mesh = self.session.mesh(file, said.unit)
        except InputError as error:
            raise EntryError("mesh", [((key,), str(error))]) from None
        shape = MeshShape(mesh, file.stem) if key == "mesh" else Hull(mesh, file.stem)
        return PlacedShape(shape, said.at, said.name, said.color)
