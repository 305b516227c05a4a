"""Reading what is to be looked at: a robot, a scene, or a recording with its robot."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from mooring.formats import read_scene
from mooring.formats.editing import EDITABLE
from mooring.model.scene import Scene
from mooring.simulation import Recording, is_run, read_run


@dataclass(frozen=True, eq=False)
class Opened:
    """What was read.

    Attributes:
        scene: the scene; a robot by itself is one, too.
        recording: a run to be looked at; None where there is none.
        editable: the document or URDF file that can be changed; None where it is none.
    """

    scene: Scene
    recording: Recording | None = None
    editable: Path | None = None


@dataclass(frozen=True)
class ModelSource:
    """Where a model comes from, and how it is read.

    Attributes:
        file: a document, a URDF file, or the folder of a run.
        allow_outside: whether a document may include others from outside its folder.
        search: for URDF, folders to look for meshes in.
    """

    file: Path
    allow_outside: bool = False
    search: Sequence[Path] = ()

    @property
    def is_recording(self) -> bool:
        return is_run(self.file)

    def read(self) -> Opened:
        """Read it.

        Raises:
            InputError: it is missing, of another format, or cannot be understood.
        """
        if self.is_recording:
            return Opened(*read_run(self.file))
        scene = read_scene(self.file, allow_outside=self.allow_outside, search=self.search)
        document = self.file if self.file.suffix.lower() in EDITABLE else None
        return Opened(scene, editable=document)
