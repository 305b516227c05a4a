"""What a document's entries are read with: its robot, its CAD, and files beside it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from mooring.cad import Assembly, Axis, Frame, Part
from mooring.errors import InputError, ModelError
from mooring.formats.document.entries import MeshEntry
from mooring.formats.document.places import FOUND_BY, AxisEntry
from mooring.formats.document.session import Session
from mooring.formats.mesh_files import mesh_file
from mooring.geometry import Array, placement, rotation_from_rpy
from mooring.model import Hull, MeshShape, PlacedShape, Robot
from mooring.model.definition.context import Context
from mooring.model.definition.fields import read_direction
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
            found = said.found(self.assembly)
        except ModelError as error:
            raise EntryError("at", [((key,), str(error))]) from None
        turn = rotation_from_rpy(said.rpy)
        if isinstance(found, Frame):
            return replace(found, matrix=found.matrix @ placement(rotation=turn))
        if not isinstance(said, AxisEntry) or said.x is None:
            return replace(found, turn=turn)
        try:
            return replace(found, turn=turn, x=self._toward(found, said.x))
        except (ValueError, ModelError) as error:
            raise EntryError("at", [(("x",), str(error))]) from None

    def _toward(self, axis: Axis, x: Any) -> Array:
        """Where x points on an axis, by what is said of it."""
        place = self.place(x) if isinstance(x, Mapping) else None
        if place is None:
            return axis.frame(read_direction(x)).matrix[:3, 0]
        if isinstance(place, Frame):
            return axis.frame(place.matrix[:3, 3] - axis.origin).matrix[:3, 0]
        return axis.frame(place).matrix[:3, 0]

    def mesh(self, entry: Mapping[str, Any]) -> PlacedShape:
        said = define(MeshEntry, "mesh", entry, self)
        key = "mesh" if said.mesh is not None else "hull"
        file = self.folder / (said.mesh or said.hull or "")
        try:
            mesh = self.session.mesh(file, said.unit)
        except InputError as error:
            raise EntryError("mesh", [((key,), str(error))]) from None
        mesh = mesh if said.scale is None else mesh.scaled(said.scale)
        if key == "hull":
            return said.placed(Hull(mesh, file.stem))
        origin = mesh_file(file, unit=said.unit, scale=said.scale)
        return said.placed(MeshShape(mesh, file.stem, origin))
