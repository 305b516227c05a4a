"""A STEP file as an assembly of placed parts."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from mooring.announcing import Progress
from mooring.cad.assembly import Assembly
from mooring.cad.part import CadMaterial, Geometry, NameRegister, Part
from mooring.cad.places.frame import Frame
from mooring.cad.sampling import Sampling
from mooring.errors import InputError, needing
from mooring.geometry import Array

if TYPE_CHECKING:
    from mooring.cad.step.document import StepDocument, StepNode


def read_here(file: Path, sampling: Sampling, report: Progress) -> Assembly:
    """Read a STEP file in this process; `isolated.read_step` is the safe way.

    Args:
        file: which.
        sampling: how fine the triangles are.
        report: told how many of the file's shapes are done, and how many there are.

    Raises:
        InputError: damaged, without any solid, or the reader is not installed.
    """
    try:
        from mooring.cad.step.document import StepDocument
    except ImportError as error:
        words = needing(f"{file}: reading STEP", "step", error)
        raise InputError(f"{words}; a bare Debian needs libgl1 and libx11-6 besides") from error
    document = StepDocument(file)
    collector = _Collector(document, sampling, report)
    for node in document.roots():
        collector.add(node, np.eye(4), "")
    if not collector.parts:
        raise InputError(f"{file}: the file holds no solids or surfaces")
    names = collector.names
    notes = list(collector.notes)
    bare = collector.without_surface
    if bare:
        names_of = ", ".join(dict.fromkeys(bare))
        notes.append(f"{len(bare)} shapes without a surface (points, curves) left out: {names_of}")
    if names.changed:
        notes.append(f"{names.changed} parts shared a name with another and were numbered")
    name = document.name or file.stem
    return Assembly(name, file, tuple(collector.parts), tuple(notes), frames=collector.frames)


@dataclass
class _Collector:
    """Walks the file's tree and keeps each shape's geometry once."""

    document: StepDocument
    sampling: Sampling
    report: Progress

    def __post_init__(self) -> None:
        self.parts: list[Part] = []
        self.names = NameRegister()
        self.notes: list[str] = []
        self.without_surface: list[str] = []
        self.frames: dict[str, Frame] = {}
        self.geometries: dict[str, Geometry | None] = {}
        self.colors: dict[str, str | None] = {}
        self._frame_names = NameRegister()

    def add(self, node: StepNode, place: Array, parent_path: str) -> None:
        # A nameless shape inside a named product, as some exporters nest them, is that product.
        parent = parent_path.rpartition("/")[2]
        name = node.name or parent or self.document.file.stem
        path = f"{parent_path}/{name}" if parent_path and node.name else parent_path or name
        place = place @ node.placement
        for frame, inside in self.document.frames.get(node.product_name, ()):
            taken = frame in self.frames
            unique = self._frame_names.unique(f"{name}_{frame}" if taken else frame)
            self.frames[unique] = Frame(place @ inside, f"the axis placement {frame} of {name}")
        if node.is_assembly:
            for child in node.children():
                self.add(child, place, path)
            return
        geometry = self._geometry(node, name)
        if geometry is None:
            return
        color = node.color or self.colors[node.shape_key]
        density = node.material_density
        name_of_material = node.material_name
        material = CadMaterial(name_of_material, density) if name_of_material else None
        self.parts.append(Part(self.names.unique(name), path, place, geometry, color, material))

    def _geometry(self, node: StepNode, name: str) -> Geometry | None:
        if node.shape_key not in self.geometries:
            self.report(len(self.geometries), self.document.shape_count)
            from mooring.cad.step.shape import geometry_of

            geometry = geometry_of(
                node.shape, node.product_name, self.sampling, node.color_of_piece
            )
            if geometry is None:
                self.without_surface.append(name)
            else:
                geometry, self.colors[node.shape_key] = geometry.in_one_color()
            self.geometries[node.shape_key] = geometry
        return self.geometries[node.shape_key]
