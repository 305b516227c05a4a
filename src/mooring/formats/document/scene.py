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
from mooring.model.robot.origins import origin_notes
from mooring.model.scene import BASE, HELD_BY, WORLD, Scene, SceneSettings

Item = tuple[str, ...]
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
        robot.notes += origin_notes(robot)
        return scene

    def remember(self, robot: Robot) -> None:
        super().remember(robot)
        written: dict[Item, list[Item]] = {}
        for item, home in held_items(self.document).items():
            written.setdefault(home, []).append(item)
        for path, place in list(robot.places.items()):
            for item in written.get((*path[:2],), ()) if len(path) > 1 else ():
                robot.places.setdefault((*item, *path[2:]), place)

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


def held_items(document: Mapping[str, Any]) -> dict[Item, Item]:
    """Where a scene's document has what it says of links and joints under other names.

    Args:
        document: of the scene, as it is written.

    Returns:
        Section and name there, by those in the robot that the scene becomes.

    Example:
        >>> held_items({"obstacles": {"wall": {}}})
        {('links', 'wall'): ('obstacles', 'wall'), ('joints', 'wall_stands'): ('obstacles', 'wall')}
    """
    found: dict[Item, Item] = {}
    for section, ending in HELD_BY.items():
        for name in _names(document, section):
            found["links", name] = found["joints", name + ending] = (section, name)
    for name, entry in _names(document, "robots").items():
        prefix = entry.get("prefix") if isinstance(entry, Mapping) else None
        found["joints", f"{prefix or ''}{BASE}"] = ("robots", name)
    return found


def _names(document: Mapping[str, Any], section: str) -> Mapping[str, Any]:
    found = document.get(section)
    return {str(k): v for k, v in found.items()} if isinstance(found, Mapping) else {}


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
