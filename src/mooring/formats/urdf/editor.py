"""Changing a URDF file by program, with its comments, order and other programs' parts kept."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from os import PathLike
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np

from mooring.errors import InputError, ModelError, did_you_mean
from mooring.formats.urdf.markup import Markup, Node
from mooring.formats.urdf.numbers import tidy_text
from mooring.formats.urdf.read import read_urdf
from mooring.formats.urdf.source import decoded, encoded
from mooring.geometry import rpy_from_rotation
from mooring.model import Placement, Robot
from mooring.model.definition.mirroring import tensor_of
from mooring.model.robot.overriding import override

KeyPath = str | Sequence[str | int]


class _Where(NamedTuple):
    """Where a field stands: elements on the way, made where they are missing, and an attribute."""

    tags: tuple[str, ...]
    attribute: str


_FIELDS: dict[str, dict[tuple[str, ...], _Where]] = {
    "joint": {
        ("type",): _Where((), "type"),
        ("parent",): _Where(("parent",), "link"),
        ("child",): _Where(("child",), "link"),
        ("axis",): _Where(("axis",), "xyz"),
        **{
            ("limits", key): _Where(("limit",), key)
            for key in ("lower", "upper", "effort", "velocity", "acceleration")
        },
        ("limits", "soft", "lower"): _Where(("safety_controller",), "soft_lower_limit"),
        ("limits", "soft", "upper"): _Where(("safety_controller",), "soft_upper_limit"),
        ("limits", "soft", "position_gain"): _Where(("safety_controller",), "k_position"),
        ("limits", "soft", "velocity_gain"): _Where(("safety_controller",), "k_velocity"),
        ("damping",): _Where(("dynamics",), "damping"),
        ("friction",): _Where(("dynamics",), "friction"),
        ("calibration", "rising"): _Where(("calibration",), "rising"),
        ("calibration", "falling"): _Where(("calibration",), "falling"),
    },
    "coupling": {
        ("follows",): _Where((), "joint"),
        ("ratio",): _Where((), "multiplier"),
        ("offset",): _Where((), "offset"),
    },
    "link": {("mass",): _Where(("inertial", "mass"), "value")},
}
_SECTIONS = {"joints": "joint", "links": "link", "couplings": "coupling"}
_MOMENTS = ("ixx", "iyy", "izz", "ixy", "ixz", "iyz")


class UrdfEditor:
    """A URDF file that is being changed; nothing is written before `save`.

    Paths are those of the description, as in a document; values may have units.

    Example:
        >>> from pathlib import Path
        >>> from tempfile import TemporaryDirectory
        >>> folder = TemporaryDirectory()
        >>> file = Path(folder.name, "crane.urdf")
        >>> length = file.write_text('''<robot name="crane"><link name="mast"/><link name="boom"/>
        ... <joint name="luff" type="revolute"><parent link="mast"/><child link="boom"/>
        ... <limit lower="0" upper="1.2" effort="900" velocity="0.2"/><dynamics damping="4"/>
        ... </joint></robot>''')
        >>> editor = UrdfEditor(file)
        >>> editor.set("joints.luff.limits.upper", "1.25 rad")
        >>> editor.get("joints.luff.limits.upper"), editor.written("joints.luff.limits.lower")
        (1.25, 0.0)
        >>> editor.rename("link", "boom", "arm")
        >>> editor.remove("joints.luff.damping")
        >>> editor.respell(2, "parent", "link", "Link")
        >>> editor.respell(2, "parent", "Link", "link")
        >>> editor.check()
        <Robot 'crane': 2 links, 1 joints>
        >>> robot = editor.save()
        >>> editor.read_text() == editor.text
        True
        >>> folder.cleanup()
    """

    def __init__(self, file: str | PathLike[str]) -> None:
        """Read a file to be changed.

        Raises:
            InputError: it is missing, or cannot be read as it is.
        """
        self.file = Path(file)
        self._before = self.read_text()
        read_urdf(self.file, text=self._before)
        self._markup = Markup(self._before)

    def read_text(self) -> str:
        """What stands in the file now."""
        return decoded(self.file.read_bytes())

    @property
    def text(self) -> str:
        """The file as it would be written."""
        return self._markup.text

    def get(self, path: KeyPath) -> Any:
        """What the file says at a path such as `"joints.luff.limits.upper"`, in SI.

        Raises:
            ModelError: nothing.
        """
        keys = _keys(path)
        value: Any = read_urdf(self.file, text=self.text)
        for number, key in enumerate(keys):
            inside = value.get(key) if isinstance(value, Mapping) else getattr(value, key, None)
            if inside is None:
                raise ModelError(f"there is no {'.'.join(keys[: number + 1])} in {self.file.name}")
            value = inside
        return value

    def written(self, path: KeyPath) -> Any:
        """What stands at a path: a number, several, or text; None where nothing does."""
        keys = _keys(path)
        kind = _SECTIONS.get(keys[0]) if keys else None
        if kind is None or len(keys) < 2:
            return None
        try:
            found: Node | None = self._item(kind, keys[1])
        except ModelError:
            return None
        rest = tuple(keys[2:])
        if not rest:
            return {}
        where = _Where(("origin",), rest[-1]) if rest[0] == "at" else _FIELDS[kind].get(rest)
        for tag in where.tags if where else ():
            found = None if found is None else found.find(tag)
        text = (
            None if where is None or found is None else self._markup.value(found, where.attribute)
        )
        if text is None:
            return None
        try:
            values = [float(word) for word in text.split()]
        except ValueError:
            return text
        return values[0] if len(values) == 1 else values

    def set(self, path: KeyPath, value: Any) -> None:
        """Write a value.

        Args:
            path: such as `"joints.luff.limits.upper"`, `"links.boom.mass"`,
                `"joints.luff.at"` or `"couplings.jaw.ratio"`.
            value: a number in SI, or text with a unit; of a place as in a document.

        Raises:
            ModelError: there is no such item, URDF has no place for it, or the value is wrong.
        """
        keys = _keys(path)
        if isinstance(value, Mapping) and len(keys) == 3 and keys[2] in ("limits", "calibration"):
            for key, inner in value.items():
                self.set([*keys, key], inner)
            return
        if len(keys) == 4 and keys[0] == "joints" and keys[2] == "at" and keys[3] in ("xyz", "rpy"):
            place = self.get(keys[:3]).matrix
            known = {"xyz": place[:3, 3].tolist(), "rpy": rpy_from_rotation(place[:3, :3]).tolist()}
            self.set(keys[:3], known | {keys[3]: value})
            return
        if len(keys) < 3 or keys[0] not in _SECTIONS:
            raise _no_place(".".join(keys))
        kind, name, rest = _SECTIONS[keys[0]], keys[1], tuple(keys[2:])
        node = self._item(kind, name)
        held = self._read(keys, value)
        if rest == ("at",) and kind == "joint":
            self._set_origin(node, held)
        elif rest in (("centre",), ("inertia",)) and kind == "link":
            self._set_inertial(name, rest[0], held)
        else:
            where = _FIELDS[kind].get(rest)
            if where is None:
                raise _no_place(".".join(keys))
            self._set_attribute(kind, name, where, _text(held))

    def remove(self, path: KeyPath) -> None:
        """Take away an item, or what is said at a path.

        Raises:
            ModelError: there is no such thing.
        """
        keys = _keys(path)
        if len(keys) < 2 or keys[0] not in _SECTIONS:
            raise _no_place(".".join(keys))
        kind, rest = _SECTIONS[keys[0]], tuple(keys[2:])
        node = self._item(kind, keys[1])
        if not rest:
            self._markup.remove(node)
            return
        whole = {"limits": "limit", "calibration": "calibration"}.get(rest[0])
        where = _Where((whole,), "") if whole and len(rest) == 1 else _FIELDS[kind].get(rest)
        found: Node | None = node
        for tag in where.tags if where else ():
            found = found.find(tag) if found is not None else None
        if (
            where is None
            or found is None
            or (where.attribute and where.attribute not in found.attributes)
        ):
            raise ModelError(f"there is no {'.'.join(keys)} in {self.file.name}")
        if where.attribute:
            self._markup.unset(found, where.attribute)
        else:
            self._markup.remove(found)

    def rename(self, kind: str, old: str, new: str) -> None:
        """Give a link or joint another name, wherever it stands as a whole.

        Args:
            kind: `"link"` or `"joint"`.
            old, new: names.

        Raises:
            ModelError: there is no such item, or the new name is taken.
        """
        if kind not in ("link", "joint"):
            raise ModelError(f"in a URDF file links and joints have names, and no {kind}")
        self._item(kind, old)
        if any(self._markup.value(node, "name") == new for node in self._items(kind)):
            raise ModelError(f"there is already a {kind} called {new!r}")
        # Each change makes all nodes anew.
        while (place := self._first_naming(kind, old)) is not None:
            self._markup.set(*place, new)

    def _first_naming(self, kind: str, name: str) -> tuple[Node, str] | None:
        """The first attribute that names a link or joint."""
        places = ((node, key) for node in self._markup.root.all() for key in node.attributes)
        return next((place for place in places if self._names(*place, kind) == name), None)

    def _names(self, node: Node, key: str, kind: str) -> str | None:
        """The link or joint that an attribute names; None where it names no such thing."""
        own = {"link": {"parent": "link", "child": "link", "link": "name"},
               "joint": {"joint": "name", "mimic": "joint"}}[kind]  # fmt: skip
        ours = node.tag in ("robot", "link", "joint", "parent", "child", "mimic", "material")
        inside = node.parent.tag if node.parent is not None else ""
        if node.tag == "joint" and inside != "robot":
            # Of a transmission.
            ours = kind == "link"
            own = {"joint": "name"} if kind == "joint" else {}
        if ours and own.get(node.tag) != key:
            return None
        return self._markup.value(node, key)

    def respell(self, line: int, tag: str, old: str, new: str) -> None:
        """Call an attribute of an element that begins on a line something else.

        Args:
            line: on which it begins.
            tag: of the element.
            old: the attribute's name; empty for the element itself.
            new: what it is called then.

        Raises:
            ModelError: there is no such element.
        """
        for node in self._markup.root.all():
            there = not old or old in node.attributes
            if node.tag == tag and self._markup.line(node) == line and there:
                self._markup.respell(node, old, new)
                return
        raise ModelError(f"{self.file}:{line}: there is no <{tag}> {old}".rstrip())

    def check(self) -> Robot:
        """Read the file as it would be written.

        Raises:
            InputError: the changes made it unreadable.
        """
        return read_urdf(self.file, text=self.text)

    def save(self) -> Robot:
        """Write the file, if it can still be read.

        Raises:
            InputError: it cannot, or somebody else changed it; nothing is written then.
        """
        if self.read_text() != self._before:
            raise InputError(f"{self.file}: was changed by somebody else since it was read")
        robot = self.check()
        encoded(self.file, self.text)
        self._before = self.text
        return robot

    # Finding.

    def _items(self, kind: str) -> list[Node]:
        return [node for node in self._markup.root.children if node.tag == kind]

    def _item(self, kind: str, name: str) -> Node:
        tag = "joint" if kind == "coupling" else kind
        for node in self._items(tag):
            if self._markup.value(node, "name") == name:
                found = node.find("mimic") if kind == "coupling" else node
                if found is not None:
                    return found
        names = [self._markup.value(node, "name") or "" for node in self._items(tag)]
        raise ModelError(f"no {kind} is called {name!r}{did_you_mean(name, names)}")

    def _element(self, kind: str, name: str, tags: Sequence[str]) -> Node:
        """An element inside an item, made where it is missing."""
        for depth in range(1, len(tags) + 1):
            owner = self._item(kind, name)
            for tag in tags[: depth - 1]:
                owner = owner.find(tag)  # type: ignore[assignment]
            if owner.find(tags[depth - 1]) is None:
                self._markup.add(owner, f"<{tags[depth - 1]}/>")
        node = self._item(kind, name)
        for tag in tags:
            node = node.find(tag)  # type: ignore[assignment]
        return node

    # Writing.

    def _read(self, keys: Sequence[str], value: Any) -> Any:
        """A value as the description reads it, with its unit."""
        robot = self.check()
        said: Any = value
        for key in reversed(keys[2:]):
            said = {key: said}
        override(robot, {keys[0]: {keys[1]: said}}, robot.context)
        held: Any = robot.section(_SECTIONS[keys[0]])[keys[1]]
        for key in keys[2:]:
            held = getattr(held, key)
        return held

    def _set_attribute(self, kind: str, name: str, where: _Where, text: str) -> None:
        self._markup.set(self._element(kind, name, where.tags), where.attribute, text)

    def _set_origin(self, joint: Node, place: Placement) -> None:
        name = self._markup.value(joint, "name") or ""
        if place.relative_to != "link":
            raise ModelError("in a URDF file places are measured from the parent link")
        rpy = rpy_from_rotation(place.matrix[:3, :3]).round(14)
        self._set_attribute(
            "joint", name, _Where(("origin",), "xyz"), tidy_text(place.matrix[:3, 3])
        )
        if np.abs(rpy).max() > 0 or self._element("joint", name, ("origin",)).attributes.get("rpy"):
            self._set_attribute("joint", name, _Where(("origin",), "rpy"), tidy_text(rpy))

    def _set_inertial(self, link: str, field: str, value: Any) -> None:
        way = ("inertial", "origin")
        if field == "centre":
            self._set_attribute("link", link, _Where(way, "xyz"), tidy_text(value))
            return
        tensor = tensor_of(value)
        moments = (
            tensor[0, 0],
            tensor[1, 1],
            tensor[2, 2],
            tensor[0, 1],
            tensor[0, 2],
            tensor[1, 2],
        )
        for key, moment in zip(_MOMENTS, moments, strict=True):
            self._set_attribute(
                "link", link, _Where(("inertial", "inertia"), key), tidy_text(float(moment))
            )
        origin = self._element("link", link, way)
        if "rpy" in origin.attributes:
            # They are given along the link's axes.
            self._markup.set(origin, "rpy", "0 0 0")


def _no_place(what: str) -> ModelError:
    return ModelError(
        f"a URDF file has no place for {what}; include the file in a document, and say it there: "
        "include: {file: ...}"
    )


def _keys(path: KeyPath) -> list[str]:
    return path.split(".") if isinstance(path, str) else [str(key) for key in path]


def _text(value: Any) -> str:
    if isinstance(value, str):
        return value
    if isinstance(value, (tuple, list)):
        return tidy_text(value)
    return tidy_text(float(value))
