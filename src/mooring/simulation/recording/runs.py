"""A run, and what was run."""

from __future__ import annotations

from os import PathLike
from pathlib import Path

from mooring.arguments import proven
from mooring.errors import InputError
from mooring.formats import read_scene
from mooring.model.scene import Scene
from mooring.simulation.recording.recording import Recording
from mooring.simulation.recording.run_folder import DESCRIBED, MODEL_FILE, is_of_another_run


@proven
def is_run(file: str | PathLike[str]) -> bool:
    """Whether something would be a run, by its name: a folder, or the file in it."""
    return Path(file).is_dir() or Path(file).name == DESCRIBED


@proven
def read_run(file: str | PathLike[str]) -> tuple[Scene, Recording]:
    """A run, and what was run.

    Raises:
        InputError: there is none, it cannot be understood, or they do not belong together.
    """
    folder = Path(file) if Path(file).is_dir() else Path(file).parent
    recording = Recording.read(folder)
    model = folder / MODEL_FILE
    if not model.is_file():
        raise InputError(
            f"{folder}: holds a recording without its {MODEL_FILE}; make it anew with mooring run, "
            "which writes both"
        )
    if is_of_another_run(model):
        raise InputError(f"{folder}: {MODEL_FILE} was changed, or is of another run")
    scene = read_scene(model)
    scene.settings.ground = recording.ground
    if scene.robot.coordinates != recording.coordinates:
        raise InputError(f"{folder}: the recording and {MODEL_FILE} are of different robots")
    return scene, recording
