"""Changing a document by program, with its comments, order and quotes kept."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator, Sequence
from os import PathLike
from pathlib import Path
from typing import Any

from mooring.errors import InputError, ModelError, did_you_mean
from mooring.files import write_text
from mooring.formats.document.load import load_document
from mooring.formats.document.scene import kind_of, load_scene
from mooring.formats.document.source import text_of
from mooring.model import Robot

KeyPath = str | Sequence[str | int]
_SECTIONS = {
    "link": "links", "joint": "joints", "closure": "closures", "spring": "springs",
    "motor": "motors", "sensor": "sensors", "frame": "frames", "posture": "postures",
    "motion": "motions", "material": "materials", "value": "values",
}  # fmt: skip


class DocumentEditor:
    """A document that is being changed; nothing is written before `save`.

    Example:
        `editor = DocumentEditor("tender.yaml")`
        `editor.set("joints.slew.limits.upper", "160 deg")`
        `editor.rename("link", "boom", "arm")`
        `editor.save()`
    """

    def __init__(self, file: str | PathLike[str]) -> None:
        """Read a document to be changed.

        Raises:
            InputError: it is missing, or cannot be read as it is.
        """
        self.file = Path(file)
        self._before = text_of(self.file)
        _read(self.file, self._before)
        self._yaml = _round_trip(self._before)
        self._tree: Any = self._yaml.load(self._before)

    @property
    def text(self) -> str:
        """The document as it would be written."""
        stream = io.StringIO()
        self._yaml.dump(self._tree, stream)
        return stream.getvalue()

    def get(self, path: KeyPath) -> Any:
        """What is written at a path such as `"joints.slew.limits.upper"`.

        Raises:
            ModelError: nothing is.
        """
        node = self._tree
        for number, key in enumerate(_keys(path)):
            node = _step(node, key, _keys(path)[: number + 1])
        return node

    def set(self, path: KeyPath, value: Any) -> None:
        """Write a value; the last key of the path may be new.

        Raises:
            ModelError: a key before the last is not there.
        """
        *way, last = _keys(path)
        owner = self.get(way)
        if isinstance(owner, list):
            _step(owner, last, [*way, last])
            owner[int(last)] = value
        elif isinstance(owner, dict):
            owner[last] = value
        else:
            raise ModelError(f"{_dotted(way)} holds {owner!r}, in which nothing can be set")

    def remove(self, path: KeyPath) -> None:
        """Take away what is written at a path.

        Raises:
            ModelError: nothing is.
        """
        *way, last = _keys(path)
        self.get(path)
        owner = self.get(way)
        del owner[int(last) if isinstance(owner, list) else last]

    def rename(self, kind: str, old: str, new: str) -> None:
        """Give an item another name, here and wherever this document refers to it.

        Args:
            kind: link, joint, closure, motor, sensor, frame, posture, motion, material or value.
            old, new: names.

        Raises:
            ModelError: this document has no such item, or the new name is taken.
        """
        section = _SECTIONS.get(kind)
        if section is None:
            raise ModelError(f"unknown kind {kind!r}{did_you_mean(kind, list(_SECTIONS))}")
        items = self._tree.get(section) or {}
        if old not in items:
            hint = did_you_mean(old, list(items))
            raise ModelError(f"{self.file.name} itself has no {kind} called {old!r}{hint}")
        if new in items:
            raise ModelError(f"there is already a {kind} called {new!r}")
        _rename_key(items, old, new)
        for owner, key in self._references(kind):
            if owner[key] == old:
                owner[key] = new
        if kind == "joint":
            for owner in (
                self._tree.get("couplings"),
                *(self._tree.get("postures") or {}).values(),
            ):
                if owner and old in owner:
                    _rename_key(owner, old, new)
        if kind == "value":
            _replace_in_expressions(self._tree, old, new)

    def _references(self, kind: str) -> Iterator[tuple[Any, Any]]:
        """Where names of a kind stand as values: the mapping or list, and the key."""
        tree = self._tree

        def each(section: str) -> Iterator[Any]:
            entries = tree.get(section) or {}
            yield from entries if isinstance(entries, list) else entries.values()

        where: dict[str, list[tuple[str, tuple[str, ...]]]] = {
            "link": [("joints", ("parent", "child")), ("frames", ("link",)), ("sensors", ("link",)),
                     ("include", ("onto",)), ("chains", ("base",))],
            "joint": [("couplings", ("follows",)), ("motors", ("joint",)), ("sensors", ("joint",))],
            "frame": [("include", ("frame",)), ("sensors", ("frame",))],
            "material": [("links", ("material",))],
        }  # fmt: skip
        for section, keys in where.get(kind, ()):
            for entry in each(section):
                for key in keys:
                    if isinstance(entry, dict) and key in entry:
                        yield entry, key
        if kind == "link":
            for closure in each("closures"):
                between = closure.get("between")
                for number in range(len(between or ())):
                    yield between, number
        if kind == "material":
            for link in each("links"):
                per_part = (link or {}).get("part_materials") or {}
                for pattern in per_part:
                    yield per_part, pattern
        if kind == "posture":
            for steps in each("motions"):
                for step in steps:
                    if "to" in step:
                        yield step, "to"

    def save(self) -> Robot:
        """Write the document, if it still describes a robot.

        Returns:
            The robot.

        Raises:
            InputError: the changes made it wrong, as told with the lines it would have had, or
                somebody else changed the file; nothing is written then.
        """
        if text_of(self.file) != self._before:
            raise InputError(f"{self.file}: was changed by somebody else since it was read")
        robot = self.check()
        self._before = self.text
        write_text(self.file, self._before)
        return robot

    def check(self) -> Robot:
        """Read the document as it would be written.

        Returns:
            The robot; of a scene, all that is in it.

        Raises:
            InputError: the changes made it wrong, as told with the lines it would have.
        """
        return _read(self.file, self.text)


def _read(file: Path, text: str) -> Robot:
    if kind_of(file, text) == "scene":
        return load_scene(file, text=text).robot
    return load_document(file, text=text)


def _round_trip(text: str) -> Any:
    from ruamel.yaml import YAML

    yaml = YAML(typ="rt", pure=True)
    yaml.preserve_quotes = True
    yaml.width = 4096
    # Lists are written as they stand in the document: flush with their key, or moved in.
    moved_in = any(line.startswith("  - ") for line in text.splitlines())
    yaml.indent(mapping=2, sequence=4 if moved_in else 2, offset=2 if moved_in else 0)
    return yaml


def _keys(path: KeyPath) -> list[str | int]:
    return list(path.split(".")) if isinstance(path, str) else list(path)


def _dotted(keys: Sequence[str | int]) -> str:
    return ".".join(str(key) for key in keys) or "the document"


def _step(node: Any, key: str | int, way: Sequence[str | int]) -> Any:
    if isinstance(node, list):
        number = int(key) if str(key).isdigit() else -1
        if not 0 <= number < len(node):
            raise ModelError(f"{_dotted(way)}: the list has {len(node)} items, counted from 0")
        return node[number]
    if isinstance(node, dict) and key in node:
        return node[key]
    known = list(node) if isinstance(node, dict) else []
    raise ModelError(f"{_dotted(way)} is not there{did_you_mean(str(key), known)}")


def _rename_key(mapping: Any, old: str, new: str) -> None:
    """Another key at the same place, with its comments."""
    place = list(mapping).index(old)
    comment = mapping.ca.items.pop(old, None)
    mapping.insert(place, new, mapping.pop(old))
    if comment is not None:
        mapping.ca.items[new] = comment


def _replace_in_expressions(node: Any, old: str, new: str) -> None:
    word = re.compile(rf"(?<![\w.]){re.escape(old)}(?!\w)")
    items = node.items() if isinstance(node, dict) else enumerate(node)
    for key, value in list(items):
        if isinstance(value, dict | list):
            _replace_in_expressions(value, old, new)
        elif isinstance(value, str) and value.startswith("="):
            # Of the same type, which remembers the quotes.
            node[key] = type(value)(word.sub(new, value))
