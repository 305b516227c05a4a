"""From a scene's document to a scene, by the same calls a Python user makes."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path
from typing import Any

from mooring.errors import ModelError, UnsoundRobotError, told
from mooring.formats.document.entries import IncludeEntry, SceneRobotEntry
from mooring.formats.document.load import Loader
from mooring.formats.document.session import Session
from mooring.formats.document.source import YamlSource
from mooring.model import Robot
from mooring.model.definition.problems import EntryError, define
from mooring.model.robot.head import RobotHead
from mooring.model.scene import WORLD, Scene, SceneSettings

_SUFFIXES = (".yaml", ".yml", ".json")


def load_scene(file: Path, *, allow_outside: bool = False, text: str | None = None) -> Scene:
    """Read a scene from a YAML document.

    Args:
        file: which.
        allow_outside: whether it may take robots, CAD and meshes from outside its folder, or the
            project that is in.
        text: what is taken to stand in it, instead of what does.

    Raises:
        InputError: the file is missing or not text.
        DocumentError: everything that is wrong in it, each with its line.
    """
    source = YamlSource(file, text)
    session = Session.of(file, allow_outside)
    return _SceneLoader(source, {}, session).scene()


class _SceneLoader(Loader):
    def scene(self) -> Scene:
        self.document = self.head("scene")
        # The world is there already.
        if isinstance(self.document.get("links"), dict):
            self.document["links"].pop(WORLD, None)
        scene: Scene = self.begin(Scene)
        robot = scene.robot
        self.bodies(robot)
        for section, add in (("obstacles", scene.add_obstacle), ("bodies", scene.add_body)):
            for name, entry in self.mapping(section).items():
                self.guard((section, name), partial(self._body, add, name, entry))
        for name, entry in self.mapping("robots").items():
            self.guard(("robots", name), partial(self._robot, scene, entry))
        # What refers to their names would be found wrong; this is the news.
        self.stop_if_wrong()
        self.structure(robot)
        self.rest(robot)
        self.whole(RobotHead, robot.head)
        self.whole(SceneSettings, scene.settings)
        self.stop_if_wrong()
        self.remember(robot)
        return scene

    def _body(self, add: Callable[..., None], name: str, entry: Any) -> None:
        if not isinstance(entry, Mapping):
            raise EntryError("", [((), f"expected a mapping of keys, got {told(entry)}")])
        add(name, context=self.context, **{str(key): value for key, value in entry.items()})

    def _robot(self, scene: Scene, entry: Any) -> None:
        said = define(SceneRobotEntry, "robot", entry, self.context)
        robot = self._read_robot(said)
        try:
            scene.add_robot(
                robot, at=said.at, base=said.base, prefix=said.prefix, posture=said.posture
            )
        except UnsoundRobotError as error:
            raise ModelError(str(error)) from None

    def _read_robot(self, said: SceneRobotEntry) -> Robot:
        entry = IncludeEntry(
            file=said.file, values=said.values, override=said.override, search=said.search
        )
        return self.other_robot(entry)


def kind_of(file: Path, text: str | None = None) -> str:
    """`"robot"` or `"scene"`: what a document says it is; `"robot"` for anything else.

    Args:
        file: which.
        text: what is taken to stand in it, instead of what does.
    """
    if file.suffix.lower() not in _SUFFIXES:
        return "robot"
    values = YamlSource(file, text).values
    return "scene" if isinstance(values, Mapping) and values.get("kind") == "scene" else "robot"
