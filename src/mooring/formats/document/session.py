"""What is shared while a document and those it includes are read."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from mooring.cad import Assembly, Mesh, read_cad
from mooring.cad.assembly.flatten import one_mesh
from mooring.errors import InputError
from mooring.files import true_path

if TYPE_CHECKING:
    from mooring.model import Robot


PROJECT = "mooring.project"
"""A file of this name, which may be empty, says that all below its folder belongs together."""


def project_of(document: Path) -> Path:
    """The folder that a document may take things from: its own, or that of the project it is in."""
    folder = true_path(document).parent
    return next((f for f in (folder, *folder.parents) if (f / PROJECT).is_file()), folder)


def is_outside(file: Path, document: Path) -> bool:
    """Whether a document may take a file only where that is allowed."""
    return not true_path(file).is_relative_to(project_of(document))


@dataclass
class Session:
    """One reading.

    Attributes:
        folder: what is outside it is not read; None allows all.
        open: the documents that are being read, the including before the included.
        robots: what was included already, by file and values, mirrored or not.
        failed: what could not be included, and was told.
        assemblies: CAD read already, so that its geometry is there once.
        meshes: mesh files read already.
    """

    folder: Path | None
    open: list[Path] = field(default_factory=list)
    robots: dict[tuple[object, ...], Robot] = field(default_factory=dict)
    failed: set[tuple[object, ...]] = field(default_factory=set)
    assemblies: dict[tuple[object, ...], Assembly] = field(default_factory=dict)
    meshes: dict[tuple[object, ...], Mesh] = field(default_factory=dict)

    @staticmethod
    def of(document: Path, allow_outside: bool) -> Session:
        """A reading that begins with a document."""
        return Session(None if allow_outside else project_of(document))

    def refuse_outside(self, file: Path, said: str) -> None:
        """Refuse what a document must not take.

        Raises:
            InputError: with how it could be allowed.
        """
        if self.folder is not None and not true_path(file).is_relative_to(self.folder):
            raise InputError(
                f"{said} is outside the document's folder; say --allow-outside "
                f"(allow_outside=True), or put an empty file {PROJECT} into the folder that holds "
                "both"
            )

    def cad(self, file: Path, unit: str | None, tolerance: float | None) -> Assembly:
        """The assembly of a CAD file; raises what `read_cad` raises."""
        self.refuse_outside(file, file.name)
        key = (true_path(file), unit, tolerance)
        if key not in self.assemblies:
            self.assemblies[key] = read_cad(file, unit=unit, tolerance=tolerance)
        return self.assemblies[key]

    def mesh(self, file: Path, unit: str | None) -> Mesh:
        """All of a mesh file as one mesh; raises what `read_cad` raises."""
        key = (true_path(file), unit)
        if key not in self.meshes:
            self.meshes[key] = one_mesh(self.cad(file, unit, None))
        return self.meshes[key]
