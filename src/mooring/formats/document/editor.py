"""Changing a document by program, with its comments, order and quotes kept."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from fnmatch import fnmatchcase
from os import PathLike
from pathlib import Path
from typing import Any, get_args

from mooring.errors import InputError, ModelError, did_you_mean
from mooring.formats.document.load import load_document
from mooring.formats.document.merging import Keep, merged
from mooring.formats.document.nodes import node_for, parser
from mooring.formats.document.scene import kind_of, load_scene
from mooring.formats.document.source import YamlSource, rewrite, text_of
from mooring.formats.document.written import written_names
from mooring.model import Robot
from mooring.model.definition.markers import Coordinate, ItemPattern, Pattern, Ref
from mooring.model.definition.walking import Spot
from mooring.model.registry import KINDS

KeyPath = str | Sequence[str | int]


class DocumentEditor:
    """A document that is being changed; nothing is written before `save`.

    Example:
        >>> from mooring.demo import LINE_TENDER
        >>> editor = DocumentEditor(LINE_TENDER.document)
        >>> editor.get("joints.slew.limits.upper")
        '170 deg'
        >>> editor.set("joints.slew.limits.upper", "160 deg")
        >>> editor.rename("link", "boom", "arm")
        >>> editor.refer("posture", "stowed", "over_ship")
        >>> editor.remove("motions.lay_line")
        >>> editor.check()
        <Robot 'line_tender': 11 links, 10 joints>

        `editor.save()` would write it, comments and all.
    """

    def __init__(
        self, file: str | PathLike[str], *, sound: bool = True, allow_outside: bool = False
    ) -> None:
        """Read a document to be changed.

        Args:
            file: which.
            sound: whether it must describe a robot as it is; `save` wants that in any case.
            allow_outside: whether it may take things from outside its folder.

        Raises:
            InputError: it is missing, or cannot be read as it is.
        """
        self.file = Path(file)
        self.allow_outside = allow_outside
        self._before = text_of(self.file)
        if sound:
            self._robot(self._before)
        elif not isinstance(YamlSource(self.file, self._before).values, dict):
            raise InputError(f"{self.file}: is no document, which is a mapping of sections")
        self._yaml = _round_trip(self._before)
        self._tree: Any = self._yaml.load(self._before)
        self._plain: str | None = None

    def _robot(self, text: str) -> Robot:
        outside = self.allow_outside
        if kind_of(self.file, text) == "scene":
            return load_scene(self.file, text=text, allow_outside=outside).robot
        return load_document(self.file, text=text, allow_outside=outside)

    @property
    def text(self) -> str:
        """The document as it would be written: lines that no change meant are as they were."""
        changed = self._dumped(self._tree)
        if self._plain is None:
            self._plain = self._dumped(self._yaml.load(self._before))
        for keep in get_args(Keep):
            text = merged(self._before, self._plain, changed, keep)
            if text == changed or _same(text, changed):
                return text
        return changed

    def _dumped(self, tree: Any) -> str:
        stream = io.StringIO()
        self._yaml.dump(tree, stream)
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
            owner[int(last)] = node_for(value, owner[int(last)])
        elif isinstance(owner, dict):
            owner[last] = node_for(value, owner.get(last))
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
        if isinstance(owner, dict):
            take_away(owner, str(last))
            return
        del owner[int(last)]

    def rename(self, kind: str, old: str, new: str) -> None:
        """Give an item another name, here and wherever this document refers to it.

        Args:
            kind: link, joint, closure, spring, motor, sensor, frame, posture, motion, material or
                value.
            old, new: names.

        Raises:
            ModelError: this document has no such item, the new name is taken, or a pattern would
                mean other items.
        """
        section = self._section(kind)
        items = self._tree.get(section) or {}
        if old not in items:
            hint = did_you_mean(old, list(items))
            raise ModelError(f"{self.file.name} itself has no {kind} called {old!r}{hint}")
        if new in items:
            raise ModelError(f"there is already a {kind} called {new!r}")
        if kind == "value":
            _rename_key(items, old, new)
            _replace_in_expressions(self._tree, old, new)
            return
        found = list(written_names(self._tree))
        self._refuse_lost_patterns(found, kind, old, new)
        self._replace(found, kind, old, new)
        _rename_key(items, old, new)

    def refer(self, kind: str, old: str, new: str) -> None:
        """Let everything in this document that refers to an item refer to another one.

        Args:
            kind: as for `rename`.
            old, new: names; both items stay as they are.
        """
        self._replace(list(written_names(self._tree)), kind, old, new)

    def _replace(self, found: list[Spot], kind: str, old: str, new: str) -> None:
        meant = [spot for spot in found if self._means(spot, kind, old)]
        # From the inside out, so that paths still lead there when keys on them change.
        for spot in sorted(meant, key=lambda spot: -len(spot.path)):
            owner = self.get(spot.path[:-1])
            key, text = spot.path[-1], _renamed(spot, kind, old, new)
            if spot.is_key:
                _rename_key(owner, str(key), text)
            else:
                # Of the same type, which remembers the quotes.
                owner[key] = type(owner[key])(text)

    def _section(self, kind: str) -> str:
        known = {k.name: k.section for k in KINDS.values() if k.own_names} | {"value": "values"}
        if kind not in known:
            raise ModelError(f"unknown kind {kind!r}{did_you_mean(kind, list(known))}")
        return known[kind]

    def _means(self, spot: Spot, kind: str, name: str) -> bool:
        """Whether something written is, or holds, the name of an item."""
        text, marker = spot.value, spot.marker
        if isinstance(marker, Ref):
            if text != name or kind not in marker.kinds:
                return False
            # Of several kinds the first that has the name is meant.
            before = marker.kinds[: marker.kinds.index(kind)]
            return not any(text in (self._tree.get(KINDS[k].section) or {}) for k in before)
        if isinstance(marker, Pattern):
            return marker.kind == kind and text == name
        if isinstance(marker, Coordinate):
            return kind == "joint" and bool(name in (text, text.rpartition(".")[0]))
        path = f"{KINDS[kind].section}.{name}"
        return bool(text == path or text.startswith(f"{path}."))

    @staticmethod
    def _refuse_lost_patterns(found: list[Spot], kind: str, old: str, new: str) -> None:
        """Refuse a name by which a pattern would match other items than before."""
        for spot in found:
            text = spot.value
            if not isinstance(spot.marker, Pattern) or spot.marker.kind != kind or text == old:
                continue
            matched, would = fnmatchcase(old, text), fnmatchcase(new, text)
            if matched != would:
                one, two = ("matches", "would not match") if matched else (
                    "does not match", "would match")  # fmt: skip
                raise ModelError(
                    f"{_dotted(spot.path)}: the pattern {text!r} {one} {old!r} and {two} {new!r}; "
                    "write the names out there first"
                )

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
        self._before, self._plain = self.text, None
        rewrite(self.file, self._before)
        return robot

    def check(self) -> Robot:
        """Read the document as it would be written.

        Returns:
            The robot; of a scene, all that is in it.

        Raises:
            InputError: the changes made it wrong, as told with the lines it would have.
        """
        return self._robot(self.text)


def take_away(owner: Any, key: str) -> None:
    """Take a key out of a mapping, and not the comment that stands before the next one with it.

    What stands between two keys belongs to the end of the first, for the parser.
    """
    names = list(owner)
    at = names.index(key)
    own = _last_comment(owner, key)
    following = "" if own is None else own.value.partition("\n")[2]
    del owner[key]
    if own is None or not following.strip() or len(names) == 1:
        return
    if at == 0:
        words = [
            line.strip().removeprefix("#").removeprefix(" ") for line in following.splitlines()
        ]
        before = "\n".join(words).strip("\n")
        owner.yaml_set_comment_before_after_key(names[1], before=before, indent=owner.lc.col)
        return
    holder, last = _end_of(owner, names[at - 1])
    items = holder.ca.items.setdefault(last, [None, None, None, None])
    if items[2] is None:
        own.value = "\n" + following
        items[2] = own
    else:
        items[2].value = items[2].value.rstrip("\n") + "\n" + following


def _last_comment(owner: Any, key: str) -> Any:
    """The comment behind a key's value; None where there is none."""
    holder, last = _end_of(owner, key)
    items = holder.ca.items.get(last)
    return items[2] if items is not None and len(items) > 2 else None


def _end_of(owner: Any, key: Any) -> tuple[Any, Any]:
    """The innermost mapping or list in block style with which a value ends, and its last key."""
    value: Any = owner[key]
    inner = isinstance(value, dict | list) and bool(value)
    if inner and not value.fa.flow_style():
        return _end_of(value, len(value) - 1 if isinstance(value, list) else list(value)[-1])
    return owner, key


def _renamed(spot: Spot, kind: str, old: str, new: str) -> str:
    """What is written where a name was, or something that holds it."""
    if isinstance(spot.marker, ItemPattern):
        before = f"{KINDS[kind].section}."
        return before + new + str(spot.value)[len(before) + len(old) :]
    return new + str(spot.value)[len(old) :]


def _round_trip(text: str) -> Any:
    yaml = parser()
    # Lists are written as they stand in the document: flush with their key, or moved in.
    moved_in = any(line.startswith("  - ") for line in text.splitlines())
    yaml.indent(mapping=2, sequence=4 if moved_in else 2, offset=2 if moved_in else 0)
    return yaml


def _same(text: str, other: str) -> bool:
    """Whether two texts say the same."""
    from ruamel.yaml import YAML
    from ruamel.yaml.error import YAMLError

    safe = YAML(typ="safe")
    try:
        return bool(safe.load(text) == safe.load(other))
    except YAMLError:
        return False


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
