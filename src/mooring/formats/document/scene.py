"""From a scene's document to a scene, by the same calls a Python user makes."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path
from typing import Any

from mooring.errors import DocumentError, InputError, ModelError, UnsoundRobotError
from mooring.formats.document.entries import BodyEntry, IncludeEntry, SceneRobotEntry
from mooring.formats.document.including import included_robot
from mooring.formats.document.load import Loader, read_document
from mooring.formats.document.session import Session
from mooring.formats.document.source import Source
from mooring.model.scene import Ground, Scene, Settings
from mooring.model.validation import EntryError, define

SCENE_SECTIONS = (
    "mooring", "kind", "name", "values", "gravity", "seconds", "step", "rate", "seed", "ground",
    "cad", "materials", "robots", "obstacles", "bodies", "allowances", "closures", "frames",
    "sensors", "postures", "motion", "motions",
)  # fmt: skip
_SETTINGS = tuple(Settings.model_fields)


def load_scene(file: Path, *, allow_outside: bool = False, text: str | None = None) -> Scene:
    """Read a scene from a YAML document.

    Args:
        file: which.
        allow_outside: whether it may take robots from outside its folder.
        text: what is taken to stand in it, instead of what does.

    Raises:
        InputError: the file is missing or not text.
        DocumentError: everything that is wrong in it, each with its line.
    """
    source = Source(file, text)
    session = Session(None if allow_outside else file.resolve().parent)
    return _SceneLoader(source, {}, session).scene()


class _SceneLoader(Loader):
    def scene(self) -> Scene:
        document = self.head("scene", SCENE_SECTIONS)
        name = str(document.get("name", self.source.file.stem))
        said = {key: document[key] for key in _SETTINGS if document.get(key) is not None}
        scene = Scene(name)
        self.guard((), lambda: setattr(scene, "settings", define(Settings, "", said)))
        robot = scene.robot
        self.read_cad(robot, document.get("cad"))
        self.each(document, "materials", robot.describe_material)
        if document.get("ground") is not None:
            self.guard(("ground",), lambda: self._ground(scene, document["ground"]))
        self.each(document, "obstacles", partial(self._body, scene.add_obstacle))
        self.each(document, "bodies", partial(self._body, scene.add_body))
        self.each(document, "robots", partial(self._robot, scene))
        if self.problems:
            # What refers to their names would be found wrong; this is the news.
            raise DocumentError(self.problems)
        self.frames(robot, document, on_ground=False)
        self.each(document, "closures", lambda n, e: robot.describe_closure(n, self.placed(e)))
        self.each(document, "postures", partial(self.posture, robot))
        self.allowances(robot, document.get("allowances"))
        self.each(document, "sensors", robot.describe_sensor)
        self.each(document, "motions", robot.add_motion, list)
        if document.get("motion") is not None:
            self.guard(("motion",), lambda: self._motion(scene, document["motion"]))
        if self.problems:
            raise DocumentError(self.problems)
        self.remember(robot, document, SCENE_SECTIONS)
        return scene

    def _ground(self, scene: Scene, entry: Any) -> None:
        ground = define(Ground, "ground", {} if entry is True else entry)
        scene.robot.know_material("ground", ("material",), ground.material)
        scene.ground = ground

    def _body(self, add: Callable[..., None], name: str, entry: Any) -> None:
        said = define(BodyEntry, f"body {name!r}", self.placed(entry))
        given = {
            key: getattr(said, key)
            for key in said.model_fields_set
            if key not in ("at", "parts", "visuals", "collision", "shapes")
        }
        if said.parts:
            given["parts"] = self.assembly_or_refuse("parts").pick(*said.parts)
        if said.visuals:
            given["visuals"] = self.visuals(said.visuals)
        if said.collision is not None:
            given["collision"] = self.meshes_in(said.collision)
        if said.shapes:
            given["shapes"] = self.meshes_in(said.shapes)
        add(name, at=said.at, **given)

    def _robot(self, scene: Scene, name: str, entry: Any) -> None:
        said = define(SceneRobotEntry, f"robot {name!r}", self.placed(entry))
        path = self.source.file.parent / said.file
        if path.suffix.lower() == ".urdf":
            from mooring.formats.urdf import read_urdf

            try:
                robot = read_urdf(path, ())
            except InputError as error:
                raise EntryError("", [(("file",), str(error))]) from None
        else:
            include = IncludeEntry(file=said.file, values=said.values)
            read = partial(read_document, session=self.session)
            try:
                robot = included_robot(include, self.source.file.parent, self.session, read)
            except DocumentError as error:
                # Told with the lines of the document that is included.
                self.problems.extend(error.problems)
                raise EntryError("", []) from None
        try:
            scene.add_robot(
                robot, at=said.at, base=said.base, prefix=said.prefix, posture=said.posture
            )
        except UnsoundRobotError as error:
            raise ModelError(str(error)) from None

    def _motion(self, scene: Scene, entry: Any) -> None:
        if isinstance(entry, str):
            if entry not in scene.robot.motions:
                raise ModelError(f"no motion is called {entry!r}")
            scene.motion = entry
        elif isinstance(entry, list):
            scene.motion = scene.robot.read_motion("motion", entry)
        else:
            raise ModelError("motion is the name of a motion, or a list of steps")


def kind_of(file: Path, text: str | None = None) -> str:
    """`"robot"` or `"scene"`: what a document says it is; `"robot"` for anything else.

    Args:
        file: which.
        text: what is taken to stand in it, instead of what does.
    """
    if file.suffix.lower() not in (".yaml", ".yml"):
        return "robot"
    values = Source(file, text).values
    return "scene" if isinstance(values, Mapping) and values.get("kind") == "scene" else "robot"
