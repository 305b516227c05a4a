"""A STEP file as an assembly of placed parts."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from mooring.cad.assembly import Assembly
from mooring.cad.part import CadMaterial, Geometry, NameRegister, Part
from mooring.cad.sampling import Sampling
from mooring.errors import InputError
from mooring.geometry import Array

if TYPE_CHECKING:
    from mooring.cad.step.document import StepDocument, StepNode


def read_here(file: Path, sampling: Sampling) -> Assembly:
    """Read a STEP file in this process; `isolated.read_step` is the safe way.

    Raises:
        InputError: damaged, without any solid, or the reader is not installed.
    """
    try:
        from mooring.cad.step.document import StepDocument
    except ImportError as error:
        raise InputError(
            f"{file}: reading STEP needs Open CASCADE: pip install '.[step]', and on a bare Debian "
            f"also apt install libgl1 libx11-6 ({error})"
        ) from error
    document = StepDocument(file)
    collector = _Collector(document, sampling)
    for node in document.roots():
        collector.add(node, np.eye(4), "")
    if not collector.parts:
        raise InputError(f"{file}: the file holds no solids or surfaces")
    names = collector.names
    notes = list(collector.notes)
    if names.changed:
        notes.append(f"{names.changed} parts shared a name with another and were numbered")
    return Assembly(document.name or file.stem, file, tuple(collector.parts), tuple(notes))


@dataclass
class _Collector:
    """Walks the file's tree and keeps each shape's geometry once."""

    document: StepDocument
    sampling: Sampling

    def __post_init__(self) -> None:
        self.parts: list[Part] = []
        self.names = NameRegister()
        self.notes: list[str] = []
        self.geometries: dict[str, Geometry | None] = {}

    def add(self, node: StepNode, place: Array, parent_path: str) -> None:
        name = node.name or self.document.file.stem
        path = f"{parent_path}/{name}" if parent_path else name
        place = place @ node.placement
        if node.is_assembly:
            for child in node.children():
                self.add(child, place, path)
            return
        geometry = self._geometry(node, name)
        if geometry is None:
            return
        density = node.material_density
        name_of_material = node.material_name
        material = CadMaterial(name_of_material, density) if name_of_material else None
        self.parts.append(
            Part(self.names.unique(name), path, place, geometry, node.color, material)
        )

    def _geometry(self, node: StepNode, name: str) -> Geometry | None:
        if node.shape_key not in self.geometries:
            from mooring.cad.step.shape import geometry_of

            geometry = geometry_of(node.shape, node.product_name, self.sampling)
            if geometry is None:
                self.notes.append(f"{name} has no surface that can be drawn and was left out")
            self.geometries[node.shape_key] = geometry
        return self.geometries[node.shape_key]
