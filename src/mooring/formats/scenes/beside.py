"""Meshes that are written beside a description, each once."""

from __future__ import annotations

import os
import re
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from mooring.cad import Mesh
from mooring.files import true_path, write_text, write_together
from mooring.model.shapes import Shape


@dataclass
class MeshesBeside:
    """The meshes of a description, in a folder named after its file.

    Attributes:
        file: of the description.
        suffix: of the meshes' files.
    """

    file: Path
    suffix: str
    _names: dict[int, str] = field(default_factory=dict)
    _meshes: dict[str, Mesh] = field(default_factory=dict)

    def path(self, shape: Shape) -> str:
        """Where a shape's mesh will be, from the description's folder; copies share one."""
        key = id(shape.mesh)
        if key not in self._names:
            stem = re.sub(r"[^\w.-]", "_", shape.label) or "mesh"
            name, number = f"{stem}{self.suffix}", 1
            while name in self._meshes:
                number += 1
                name = f"{stem}_{number}{self.suffix}"
            self._names[key] = name
            self._meshes[name] = shape.mesh
        return f"{self._folder.name}/{self._names[key]}"

    def beside(self, file: Path) -> str:
        """The path of a file that is there already, from the description's folder."""
        return Path(os.path.relpath(true_path(file), true_path(self.file).parent)).as_posix()

    def write(self, write: Callable[[Mesh, Path], None], description: str) -> None:
        """Write all of them with the description, or nothing."""
        if not self._meshes:
            write_text(self.file, description)
            return
        with write_together(self._folder, self.file, description) as folder:
            for name, mesh in self._meshes.items():
                write(mesh, folder / name)

    @property
    def _folder(self) -> Path:
        return self.file.with_name(f"{self.file.stem}_meshes")
