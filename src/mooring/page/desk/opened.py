"""Reading what is to be looked at: a robot, a scene, or a recording with its robot."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from mooring.errors import InputError
from mooring.formats import read_scene
from mooring.formats.editing import EDITABLE
from mooring.model import Robot
from mooring.model.robot.patching import as_tree
from mooring.model.scene import Scene
from mooring.simulation import Recording, is_run, read_run


@dataclass(frozen=True, eq=False)
class Opened:
    """What was read.

    Attributes:
        scene: the scene; a robot by itself is one, too.
        recording: a run to be looked at; None where there is none.
        editable: the document or URDF file that can be changed; None where it is none.
        judged: the robot as it was read, where what is shown is patched, or stands in for it.
        patches: what was patched so that it can be shown, a sentence each.
        refused: why nothing could be read; an empty robot stands in for it.
    """

    scene: Scene
    recording: Recording | None = None
    editable: Path | None = None
    judged: Robot | None = None
    patches: tuple[str, ...] = ()
    refused: InputError | None = None


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
        robot, patches = as_tree(scene.robot)
        shown = Scene.of(robot, scene.ground) if patches else scene
        return Opened(shown, None, self.editable, scene.robot, tuple(patches))

    def stand_in(self, error: InputError) -> Opened:
        """What is shown of a file from which nothing can be read, until it is mended."""
        robot = Robot(self.file.stem)
        robot.add_link("nothing")
        return Opened(Scene.of(robot), None, self.editable, refused=error)

    @property
    def editable(self) -> Path | None:
        """The file, if it is one that can be changed."""
        return self.file if self.file.suffix.lower() in EDITABLE else None
