"""Reading and writing by the suffix of the file."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from os import PathLike
from pathlib import Path

from mooring.announcing import logged
from mooring.arguments import proven
from mooring.errors import InputError
from mooring.files import is_there
from mooring.formats.document import load_document
from mooring.formats.document.scene import kind_of, load_scene
from mooring.formats.document.writing import write_document
from mooring.formats.graph import write_dot, write_svg
from mooring.formats.mesh_files import with_meshes_beside
from mooring.formats.resolved import write_json, write_scene_json
from mooring.formats.scenes.gltf import write_glb
from mooring.formats.scenes.meshes import write_mesh
from mooring.formats.scenes.posed import Posture
from mooring.formats.urdf import read_urdf, write_urdf
from mooring.model import Robot
from mooring.model.scene import Scene

Reader = Callable[[Path, bool, Sequence[Path], str | None], Robot]


def _document(file: Path, allow_outside: bool, _: Sequence[Path], text: str | None) -> Robot:
    return load_document(file, allow_outside=allow_outside, text=text)


def _urdf(file: Path, _: bool, search: Sequence[Path], text: str | None) -> Robot:
    return read_urdf(file, search, text=text)


READABLE: dict[str, Reader] = {
    ".yaml": _document,
    ".yml": _document,
    ".json": _document,
    ".urdf": _urdf,
}
DESCRIPTIONS: dict[str, Callable[[Robot, Path], list[str]]] = {
    ".urdf": write_urdf,
    ".json": write_json,
    ".yaml": write_document,
    ".yml": write_document,
    ".dot": write_dot,
    ".svg": write_svg,
}
SCENES: dict[str, Callable[[Robot, Path, Posture], list[str]]] = {
    ".glb": write_glb,
    ".stl": write_mesh,
    ".obj": write_mesh,
    ".ply": write_mesh,
}
WRITABLE = (*DESCRIPTIONS, *SCENES)


@proven
def read(
    file: str | PathLike[str],
    *,
    allow_outside: bool = False,
    search: Sequence[str | PathLike[str]] = (),
    text: str | None = None,
) -> Robot:
    """Read a robot from a document (.yaml, or .json as `write` makes it) or a URDF file (.urdf).

    Args:
        file: which.
        allow_outside: whether a document may take CAD, meshes and other documents from outside its
            folder, or the project that is in.
        search: for URDF, folders to look for meshes in.
        text: what is taken to stand in the file, which need not be there then.

    Raises:
        InputError: the file is missing, of another format, or cannot be understood; the message
            has file and line.

    Example:
        >>> from mooring import demo
        >>> read(demo.LINE_TENDER.document).name
        'line_tender'
    """
    path = Path(file)
    reader = READABLE.get(path.suffix.lower())
    if reader is None:
        if text is None and not is_there(path):
            raise InputError(f"{path}: there is no such file")
        known = ", ".join(READABLE)
        raise InputError(f"{path}: not a robot description; readable are files ending in {known}")
    with logged(__name__, "read the description %s", path):
        return reader(path, allow_outside, [Path(folder) for folder in search], text)


@proven
def read_scene(
    file: str | PathLike[str],
    *,
    allow_outside: bool = False,
    search: Sequence[str | PathLike[str]] = (),
    text: str | None = None,
) -> Scene:
    """Read a scene from a document with `kind: scene`; a robot by itself is a scene, too.

    Args:
        file: a document, or a URDF file.
        allow_outside: whether a document may take CAD, meshes and other documents from outside its
            folder, or the project that is in.
        search: for URDF, folders to look for meshes in.
        text: what is taken to stand in the file, which need not be there then.

    Raises:
        InputError: the file is missing, of another format, or cannot be understood; the message
            has file and line.

    Example:
        >>> from mooring import demo
        >>> read_scene(demo.LINE_TENDER.document).name
        'line_tender'
    """
    path = Path(file)
    if kind_of(path, text) == "scene":
        with logged(__name__, "read the scene %s", path):
            return load_scene(path, allow_outside=allow_outside, text=text)
    return Scene.of(read(path, allow_outside=allow_outside, search=search, text=text))


def write(
    robot: Robot, file: Path, posture: Posture = None, copy_meshes: bool = False
) -> list[str]:
    """Write a robot in the format of the file's suffix; see `Robot.write`."""
    suffix = file.suffix.lower()
    if copy_meshes:
        robot = with_meshes_beside(robot, file)
    if suffix in SCENES:
        return SCENES[suffix](robot, file, posture)
    if suffix not in DESCRIPTIONS:
        known = ", ".join(WRITABLE)
        raise InputError(f"{file}: cannot write this format; writable are files ending in {known}")
    if posture is not None:
        shown = ", ".join(SCENES)
        raise InputError(f"{file}: a description has no posture; {shown} do")
    return DESCRIPTIONS[suffix](robot, file)


def write_scene(
    scene: Scene, file: Path, posture: Posture = None, copy_meshes: bool = False
) -> list[str]:
    """Write a scene: as a resolved document (.json) whole, else what is in it as one robot.

    Returns:
        What the format could not carry, a sentence each.

    Raises:
        InputError: the suffix is of no format that can be written.
        UnsoundRobotError: it is no tree.
    """
    if file.suffix.lower() == ".json" and posture is None:
        return write_scene_json(scene, file)
    losses = write(scene.robot, file, posture, copy_meshes)
    settings = scene.settings.model_dump(exclude_defaults=True)
    if settings and not scene.alone:
        losses.append(f"of the scene as a whole is left out: {', '.join(settings)}")
    return losses
