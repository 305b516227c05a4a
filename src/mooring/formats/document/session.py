"""What is shared while a document and those it includes are read."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from mooring.cad import Assembly, Mesh, read_cad
from mooring.cad.assembly.flatten import one_mesh
from mooring.files import true_path

if TYPE_CHECKING:
    from mooring.model import Robot


@dataclass
class Session:
    """One reading.

    Attributes:
        folder: documents outside it are not included; None allows all.
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

    def cad(self, file: Path, unit: str | None, tolerance: float | None) -> Assembly:
        """The assembly of a CAD file; raises what `read_cad` raises."""
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
