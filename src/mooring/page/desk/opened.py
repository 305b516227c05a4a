"""Reading what is to be looked at: a robot, a scene, or a recording with its robot."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from mooring.errors import InputError
from mooring.formats import read_scene
from mooring.formats.editing import EDITABLE
from mooring.model.scene import Scene
from mooring.simulation import MODEL_FILE, Recording


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
        return self.file.is_dir() or self.file.name == "recording.json"

    def read(self) -> Opened:
        """Read it.

        Raises:
            InputError: it is missing, of another format, or cannot be understood.
        """
        if self.is_recording:
            return self._recording()
        scene = read_scene(self.file, allow_outside=self.allow_outside, search=self.search)
        document = self.file if self.file.suffix.lower() in EDITABLE else None
        return Opened(scene, editable=document)

    def _recording(self) -> Opened:
        folder = self.file if self.file.is_dir() else self.file.parent
        recording = Recording.read(folder)
        model = folder / MODEL_FILE
        if not model.is_file():
            raise InputError(
                f"{folder}: holds a recording without its {MODEL_FILE}; make it anew with mooring "
                "run, which writes both"
            )
        scene = read_scene(model)
        scene.settings.ground = recording.ground
        if scene.robot.coordinates != recording.coordinates:
            raise InputError(f"{folder}: the recording and {MODEL_FILE} are of different robots")
        return Opened(scene, recording)
