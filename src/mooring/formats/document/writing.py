"""A robot as a document that people read: with units, short numbers, and nothing that goes without
saying."""

from __future__ import annotations

import json
import os
import re
import types
from collections.abc import Mapping
from pathlib import Path
from typing import Annotated, Any, Union, get_args, get_origin

import numpy as np

from mooring.files import true_path
from mooring.formats.document.session import PROJECT, is_outside
from mooring.formats.scenes.beside import MeshesBeside
from mooring.formats.scenes.stl import write_stl
from mooring.geometry import rpy_from_rotation
from mooring.model import PlacedShape, Robot
from mooring.model.definition.described import Described
from mooring.model.definition.fields import Motion, dimension_of
from mooring.model.definition.markers import Geometric, JointQuantity, Quantity, Ref
from mooring.model.definition.walking import alternative, fields_of
from mooring.model.link import Link
from mooring.model.placement import Placement
from mooring.model.registry import KINDS
from mooring.model.robot.copying import on_links
from mooring.model.shapes.placed import BESIDE
from mooring.units import written

_WIDTH = 96
_LONGEST_KEY = 900
_PLAIN = re.compile(r"[A-Za-z_][\w.-]*")
_QUANTITY = re.compile(r"-?[\d.]+(e-?\d+)? [A-Za-z][\w*/^]*|-[xyz]")
_WORDS = {"true", "false", "yes", "no", "on", "off", "null", "none"}
_DUST = 1e-15


def write_document(robot: Robot, file: Path) -> list[str]:
    """Write a robot as a document (.yaml).

    Links made of CAD parts become shapes with their masses given; whatever else is said of a link
    stays as it was said. Meshes that were read from files are named as they are, others go to a
    folder beside the document.

    Returns:
        What is not in it, a sentence each.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    return _Writer(robot, file).write()


def entry_of(item: Described) -> dict[str, Any]:
    """An item as a document says it: units in text, and nothing that is as usual."""
    writer = _Writer(Robot("item"), Path("item.yaml"))
    return writer._fields(item, getattr(item, "motion", "rotation"))


class _Writer:
    def __init__(self, robot: Robot, file: Path) -> None:
        self.robot = robot
        self.file = file
        self.meshes = MeshesBeside(file, ".stl")
        self.outside = False
        self.motions: dict[str, Motion] = {n: j.motion for n, j in robot.joints.items()}

    def write(self) -> list[str]:
        bare = on_links(self.robot)
        head = self._fields(self.robot.head)
        lines = ["mooring: 1", f"name: {_word(self.robot.name)}"]
        lines += _block({key: value for key, value in head.items() if key != "name"}, "")
        for kind in KINDS.values():
            items = bare.section(kind.name)
            if not items:
                continue
            lines += ["", f"{kind.section}:"]
            if kind.name == "allowance":
                entries = [{"between": list(pair)} | ({"because": why} if why else {})
                           for pair, why in items.items()]  # fmt: skip
                lines += [f"  - {flow_text(entry)}" for entry in entries]
                continue
            for name, item in items.items():
                if isinstance(item, Link) and item.parts:
                    item = item.resolved(self.robot)
                entry = self._value(kind.type, item, self.motions.get(name, "rotation"))
                lines += _entry(
                    _word(str(name)), _link(entry) if kind.name == "link" else entry, "  "
                )
        self.meshes.write(write_stl, "\n".join(lines) + "\n")
        losses = []
        if self.outside:
            losses.append(
                "meshes are named that are outside the document's folder: copy them along "
                "(--copy-meshes), read it with --allow-outside, or put an empty file "
                f"{PROJECT} into the folder that holds both"
            )
        if any(link.parts for link in self.robot.links.values()):
            losses.append("parts are shapes now, and masses are given: from which CAD is left out")
        if self.robot.assemblies and self.robot.leftover_parts():
            losses.append("parts that belong to no link are left out")
        return losses

    def _fields(self, value: Described, motion: Motion = "rotation") -> dict[str, Any]:
        """What is said of something, but for what goes without saying."""
        motion = getattr(value, "motion", motion)
        found = {}
        for name, hint in fields_of(type(value)).items():
            held, usual = (
                getattr(value, name),
                type(value).model_fields[name].get_default(call_default_factory=True),
            )
            if held is None or held == usual:
                continue
            plain = self._value(hint, held, motion)
            if plain not in ({}, []) or name == "collision":
                found[name] = plain
        # What says that there is nothing to collide with is a word.
        return {**found, "collision": "none"} if found.get("collision") == [] else found

    def _value(self, hint: Any, value: Any, motion: Motion) -> Any:
        origin = get_origin(hint)
        if isinstance(value, PlacedShape):
            return self._shape(value)
        if isinstance(value, Placement):
            return _place(value)
        if origin is Annotated:
            base, *extras = get_args(hint)
            return self._marked(base, extras, value, motion)
        if origin in (Union, types.UnionType):
            return self._value(alternative(hint, value), value, motion)
        if isinstance(value, Described):
            return self._fields(value, motion)
        if isinstance(value, Mapping):
            return self._entries(hint, value, motion)
        if isinstance(value, (tuple, list)):
            inner = get_args(hint)
            each = [inner[0] if inner else Any] * len(value)
            if inner and inner[-1] is not Ellipsis and len(inner) == len(value):
                each = list(inner)
            return [self._value(h, v, motion) for h, v in zip(each, value, strict=True)]
        return _tidy(value)

    def _marked(self, base: Any, extras: list[Any], value: Any, motion: Motion) -> Any:
        quantity = next((e for e in extras if isinstance(e, Quantity | JointQuantity)), None)
        if quantity is not None:
            name = (
                quantity.dimension
                if isinstance(quantity, Quantity)
                else dimension_of(quantity.name, motion)
            )
            if isinstance(value, (tuple, list)):
                values = [written(float(v), name) for v in np.array(value) + 0.0]
                return values[:3] if len(values) == 6 and values[3:] == [0, 0, 0] else values
            return written(value, name) if isinstance(value, float | int) else value
        if any(isinstance(e, Geometric) and e.what == "direction" for e in extras):
            return _direction(value)
        return self._value(base, value, motion)

    def _entries(self, hint: Any, value: Mapping[Any, Any], motion: Motion) -> dict[str, Any]:
        key_type, kind = get_args(hint) or (str, Any)
        by_joint = any(
            isinstance(extra, Ref) and "joint" in extra.kinds
            for extra in getattr(key_type, "__metadata__", ())
        )
        return {
            key: self._value(kind, inner, self.motions.get(key, motion) if by_joint else motion)
            for key, inner in value.items()
        }

    def _shape(self, placed: PlacedShape) -> dict[str, Any]:
        shape = placed.shape
        entry: dict[str, Any] = {}
        if shape.of_triangles:
            entry = self._mesh(shape)
        else:
            lengths = [written(float(v), "length") for v in np.ravel(list(vars(shape).values()))]
            names = list(vars(shape))
            if len(names) > 1:
                entry[shape.kind] = dict(zip(names, lengths, strict=True))
            else:
                entry[shape.kind] = lengths if len(lengths) > 1 else lengths[0]
        place = _place(placed.placement)
        if place:
            entry["at"] = place
        for key in BESIDE:
            held = getattr(placed, key, None)
            if key != "at" and held not in (None, "", (), 1.0):
                entry[key] = list(held) if isinstance(held, tuple) else _tidy(held)
        return entry

    def _mesh(self, shape: Any) -> dict[str, Any]:
        file = shape.file
        if file is None or not file.path.is_file():
            return {shape.kind: self.meshes.path(shape), "unit": "m"}
        if is_outside(file.path, self.file):
            self.outside = True
        path = os.path.relpath(true_path(file.path), true_path(self.file).parent)
        entry: dict[str, Any] = {"mesh": Path(path).as_posix()}
        x, y, z = file.scale
        if x == y == z == 1e-3 and file.path.suffix.lower() == ".stl":
            return entry | {"unit": "mm"}
        if file.path.suffix.lower() in (".stl", ".obj", ".ply", ".off"):
            entry["unit"] = "m"
        return entry if file.scale == (1.0, 1.0, 1.0) else entry | {"scale": [x, y, z]}


def _link(entry: dict[str, Any]) -> dict[str, Any]:
    """What a link shows and touches, as one where it is the same."""
    visuals, collision = entry.get("visuals"), entry.get("collision")
    if not isinstance(visuals, list) or not isinstance(collision, list):
        return entry
    bare = [{k: v for k, v in one.items() if k in ("at", "name") or k not in BESIDE}
            for one in visuals]  # fmt: skip
    if bare != collision:
        return entry
    rest = {k: v for k, v in entry.items() if k not in ("visuals", "collision")}
    if len(visuals) == 1 and "mesh" not in visuals[0] and not visuals[0].get("name"):
        return {**visuals[0], **rest}
    return {"shapes": visuals, **rest}


def _place(place: Placement) -> Any:
    """A placement: a point, where it is not turned; nothing where it is neither."""
    xyz = [written(float(v), "length") for v in _clean(place.matrix[:3, 3])]
    rpy = [
        written(float(v), "angle")
        for v in _clean(rpy_from_rotation(place.matrix[:3, :3]).round(12))
    ]
    turned = any(rpy)
    if not turned:
        return xyz if any(xyz) else {}
    return {"xyz": xyz, "rpy": rpy} if any(xyz) else {"rpy": rpy}


def _clean(values: Any) -> Any:
    """Without the dust of turning numbers into a matrix and back."""
    return np.where(np.abs(values) < _DUST, 0.0, np.round(values, 14)) + 0.0


def _direction(value: Any) -> Any:
    for axis, name in enumerate("xyz"):
        for sign, prefix in ((1.0, ""), (-1.0, "-")):
            if value[axis] == sign and all(v == 0 for k, v in enumerate(value) if k != axis):
                return prefix + name
    return [_tidy(float(v)) for v in value]


def _tidy(value: Any) -> Any:
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        return int(value)
    return value


# As text.


def _entry(key: str, value: Any, indent: str) -> list[str]:
    """A key and what stands under it: on its line, where it fits."""
    flow = flow_text(value)
    if len(key) > _LONGEST_KEY:
        # YAML wants a mark before keys that are so long.
        return [f"{indent}? {key}", f"{indent}: {flow}"]
    if not isinstance(value, dict | list) or len(indent) + len(key) + 2 + len(flow) <= _WIDTH:
        return [f"{indent}{key}: {flow}"]
    if isinstance(value, dict):
        return [f"{indent}{key}:", *_block(value, f"{indent}  ")]
    lines = [f"{indent}{key}:"]
    for item in value:
        text = flow_text(item)
        if isinstance(item, dict) and len(indent) + 4 + len(text) > _WIDTH:
            first, *others = _block(item, f"{indent}    ")
            lines += [f"{indent}  - {first.lstrip()}", *others]
        else:
            lines.append(f"{indent}  - {text}")
    return lines


def _block(value: Mapping[str, Any], indent: str) -> list[str]:
    return [line for key, inner in value.items() for line in _entry(_word(str(key)), inner, indent)]


def flow_text(value: Any) -> str:
    """A value as it is written in one line."""
    if isinstance(value, dict):
        return "{" + ", ".join(f"{_word(str(k))}: {flow_text(v)}" for k, v in value.items()) + "}"
    if isinstance(value, list):
        return "[" + ", ".join(map(flow_text, value)) + "]"
    if isinstance(value, bool) or value is None:
        return {True: "true", False: "false", None: "null"}[value]
    return _word(value) if isinstance(value, str) else f"{value!r}"


def _word(text: str) -> str:
    """Text as YAML takes it: quoted, where it could be taken for something else."""
    plain = _PLAIN.fullmatch(text) or _QUANTITY.fullmatch(text)
    if plain and text.lower() not in _WORDS:
        return text
    return json.dumps(text, ensure_ascii=False)
