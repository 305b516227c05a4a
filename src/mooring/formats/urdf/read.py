"""From a URDF file to a robot; what is wrong with single items is told, and the rest is read."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
from lxml import etree

from mooring.errors import ModelError, did_you_mean
from mooring.formats.urdf.shapes import ShapeReader
from mooring.formats.urdf.source import read_source
from mooring.formats.urdf.told import Item, Told, UnreadableError, child, numbers, required
from mooring.formats.urdf.vocabulary import Stranger, strangers, vendor_parts
from mooring.model import PlacedShape, Placement, Robot
from mooring.model.definition.problems import EntryError

_JOINT_TYPES = ("fixed", "revolute", "continuous", "prismatic", "floating", "planar")
NO_LIMIT = 1e9
"""What is written, and read, for a limit that there is not: URDF wants a number."""


def read_urdf(file: Path, search: Sequence[Path] = (), *, text: str | None = None) -> Robot:
    """Read a robot from a URDF file.

    One wrong item does not refuse the file: `robot.notes` tells what could not be read, was
    assumed, or is kept without being understood, each with its line; `check` makes findings of it.

    Args:
        file: which.
        search: folders to look for meshes in, before those near the file.
        text: what is taken to stand in it, instead of what does.

    Raises:
        InputError: the file is missing or too large.
        DocumentError: it is no XML, no robot, or a macro file that has not been expanded.
    """
    return _Reader(file, search, text).robot()


class _Reader:
    def __init__(self, file: Path, search: Sequence[Path], text: str | None) -> None:
        source = read_source(file, text)
        self.root = source.root
        self.told = Told(file)
        self.shapes = ShapeReader(self.told, search)
        self.result = Robot((self.root.get("name") or "").strip() or file.stem)
        for words, line in source.odd:
            self.root.sourceline, kept = line, self.root.sourceline
            remedy = "mend it: other programs may refuse the file"
            self.told.note(self.root, words, code="not-standard", remedy=remedy)
            self.root.sourceline = kept

    def robot(self) -> Robot:
        robot = self.result
        robot.places[()] = self.told.place(self.root)
        if not (self.root.get("name") or "").strip():
            text = f"<robot> has no name; called {robot.name!r}, like the file"
            self.told.note(self.root, text, code="value-assumed", remedy="give it a name")
        self._strangers()
        for element in [*self.root.findall("material"), *self.root.iter("material")]:
            if element.get("name") not in self.shapes.looks:
                self.shapes.material(element)
        for element in self.root.findall("link"):
            self._link(element)
        for element in self.root.findall("joint"):
            self._joint(element)
        for element in self.root.findall("joint"):
            self._mimics(element)
        unread = [e for e in self.root.findall("transmission") if not self._transmission(e)]
        kept = [etree.tostring(e, encoding="unicode", with_tail=False) for e in unread]
        robot.head.vendor = (*vendor_parts(self.root, ()), *kept)
        robot.notes.extend(self.told.notes)
        return robot

    def _strangers(self) -> None:
        """Tell what may be misspelt, and what is of other programs."""
        kept: list[str] = []
        for stranger in strangers(self.root, ()):
            if stranger.meant:
                self._misspelt(stranger)
            else:
                tag = str(stranger.element.tag).rpartition("}")[2]
                kept.append(f"{stranger.attribute}=" if stranger.attribute else f"<{tag}>")
        if kept:
            count = Counter(kept)
            listed = ", ".join(f"{n} {word}" if n > 1 else word for word, n in count.items())
            self.told.note(
                self.root, f"{listed}: of other programs; kept as they are, and written back"
            )

    def _misspelt(self, stranger: Stranger) -> None:
        element = stranger.element
        owner = element
        while owner.getparent() is not None and owner.tag not in ("link", "joint"):
            owner = owner.getparent()  # type: ignore[assignment]
        name = owner.get("name")
        item = (f"{owner.tag}s", name) if owner.tag in ("link", "joint") and name else ()
        if stranger.attribute:
            what = f"{element.tag} has no attribute {stranger.attribute!r}"
        else:
            what = f"URDF has no element <{element.tag}> here"
        self.told.note(
            element, f"{what}; did you mean {stranger.meant!r}?", code="not-understood",
            item=item, remedy=f"write {stranger.meant}; as it stands it says nothing",
        )  # fmt: skip

    # Links.

    def _link(self, element: etree._Element) -> None:
        robot = self.result
        try:
            name = required(element, "name")
        except UnreadableError as error:
            self.told.unreadable(error, (), "the link is left out")
            return
        item = ("links", name)
        if name in robot.links:
            first = robot.places[item].line
            self.told.note(
                element, f"there is a link {name!r} on line {first} already; this one is left out",
                code="name-twice", item=item, remedy="give one of them another name",
            )  # fmt: skip
            return
        entry: dict[str, Any] = {"vendor": vendor_parts(element, ("link",))}
        inertials = element.findall("inertial")
        for inertial in inertials[:1]:
            entry |= self._inertial(inertial, name)
        for inertial in inertials[1:]:
            self.told.note(
                inertial, f"link {name!r} has a second <inertial>; it is left out",
                code="element-twice", item=(*item, "mass"), remedy="keep one of them",
            )  # fmt: skip
        for tag, field in (("visual", "visuals"), ("collision", "collision")):
            shapes, unread = self._shapes(element, tag, (*item, field))
            if shapes:
                entry[field] = shapes
            entry["vendor"] = (*entry["vendor"], *unread)
        self._add("link", name, entry, element, {})
        robot.places[item] = self.told.place(element)
        for tag, field in (("visual", "visuals"), ("collision", "collision"), ("inertial", "mass")):
            inner = element.find(tag)
            if inner is not None:
                robot.places[(*item, field)] = self.told.place(inner)
        for tag, field in (("mass", "mass"), ("inertia", "inertia"), ("origin", "centre")):
            inner = element.find(f"inertial/{tag}")
            if inner is not None:
                robot.places[(*item, field)] = self.told.place(inner)

    def _shapes(
        self, link: etree._Element, tag: str, item: Item
    ) -> tuple[list[PlacedShape], list[str]]:
        """The shapes of a link, and those that could not be read, as they stand."""
        shapes, unread = [], []
        for element in link.findall(tag):
            shape = self.shapes.shape(element, item)
            if shape is not None:
                shapes.append(shape)
            else:
                unread.append(etree.tostring(element, encoding="unicode", with_tail=False))
        return shapes, unread

    def _inertial(self, element: etree._Element, link: str) -> dict[str, Any]:
        told, item = self.told, ("links", link)
        mass = told.number(element.find("mass"), "value", (*item, "mass"))
        if mass is None:
            text = f"link {link!r}: <inertial> without a mass; it is left out"
            told.note(element, text, code="element-missing", item=(*item, "mass"),
                      remedy='write <mass value="..."/> in kg')  # fmt: skip
            return {}
        if mass == 0:
            told.note(element, f"link {link!r} has the mass 0: read as without mass properties")
            return {}
        if mass < 0:
            told.note(
                element, f"link {link!r} has the mass {mass:g} kg; read as without mass properties",
                code="mass-negative", item=(*item, "mass"), remedy="give its mass in kg",
            )  # fmt: skip
            return {}
        moments = element.find("inertia")
        if moments is None:
            told.note(
                element,
                f"link {link!r}: <inertial> without <inertia>; its mass is spread over its shapes",
                code="value-assumed", item=(*item, "inertia"),
                remedy="give its moments of inertia",
            )  # fmt: skip
            return {"mass": mass}
        values = {}
        for key in ("ixx", "ixy", "ixz", "iyy", "iyz", "izz"):
            values[key] = told.number(moments, key, (*item, "inertia"))
        products = [key for key in ("ixy", "ixz", "iyz") if values[key] is None]
        if any(values[key] is None for key in ("ixx", "iyy", "izz")):
            told.note(
                moments,
                f"link {link!r}: moments of inertia are missing; its mass is spread over its "
                "shapes",
                code="element-missing", item=(*item, "inertia"),
                remedy="give ixx, iyy and izz in kg m^2",
            )  # fmt: skip
            return {"mass": mass}
        if products:
            told.note(
                moments, f"link {link!r}: {', '.join(products)} not given; taken as 0",
                code="value-assumed", item=(*item, "inertia"), remedy="write them, be they 0",
            )  # fmt: skip
        v = {key: value or 0.0 for key, value in values.items()}
        tensor = np.array(
            [
                [v["ixx"], v["ixy"], v["ixz"]],
                [v["ixy"], v["iyy"], v["iyz"]],
                [v["ixz"], v["iyz"], v["izz"]],
            ]
        )
        place = told.origin(element, (*item, "centre"))
        turn = place[:3, :3]
        if not np.array_equal(turn, np.eye(3)):
            tensor = turn @ tensor @ turn.T
        return {
            "mass": mass,
            "centre": place[:3, 3].tolist(),
            "inertia": tensor[[0, 1, 2, 0, 0, 1], [0, 1, 2, 1, 2, 2]].tolist(),
        }

    # Joints.

    def _joint(self, element: etree._Element) -> None:
        told, robot = self.told, self.result
        try:
            ends = {tag: required(child(element, tag), "link") for tag in ("parent", "child")}
        except UnreadableError as error:
            told.unreadable(error, (), "the joint is left out")
            return
        name = self._joint_name(element, ends["child"])
        kind = self._joint_type(element, name)
        item = ("joints", name)
        entry: dict[str, Any] = {"type": kind, **ends}
        entry["at"] = Placement(told.origin(element, (*item, "at")))
        tags = {"at": "origin", "limits": "limit", "damping": "dynamics", "friction": "dynamics",
                "calibration": "calibration", "axis": "axis"}  # fmt: skip
        if kind != "planar":
            entry["vendor"] = vendor_parts(element, ("joint",))
        if kind not in ("fixed", "floating"):
            entry["axis"] = self._axis(element, item, kind)
        if kind in ("revolute", "continuous", "prismatic"):
            entry["limits"] = self._limits(name, kind, element)
            switch = self._numbers(
                element.find("calibration"), item, rising="rising", falling="falling"
            )
            entry["calibration"] = switch or None
            entry |= self._numbers(
                element.find("dynamics"), item, damping="damping", friction="friction"
            )
        self._add("joint", name, entry, element, tags)
        if kind == "planar":
            made = ", ".join(joint for joint in robot.joints if joint.startswith(f"{name}_"))
            told.note(element, f"joint {name!r}: planar, read as the simple joints {made}")
        places = {(): "", ("parent",): "parent", ("child",): "child", ("limits",): "limit",
                  ("axis",): "axis", ("at",): "origin", ("damping",): "dynamics",
                  ("friction",): "dynamics"}  # fmt: skip
        for keys, tag in places.items():
            inner = element.find(tag) if tag else element
            if inner is not None:
                robot.places[(*item, *keys)] = told.place(inner)

    def _joint_name(self, element: etree._Element, child: str) -> str:
        robot = self.result
        name = (element.get("name") or "").strip() and element.get("name", "")
        if not name:
            name = _free(f"{child}_joint", robot.joints)
            self.told.note(
                element, f"a joint without a name; called {name!r}", code="element-missing",
                item=("joints", name), remedy="give it a name",
            )  # fmt: skip
        elif name in robot.joints:
            first, old = robot.places["joints", name].line, name
            name = _free(name, robot.joints)
            self.told.note(
                element, f"there is a joint {old!r} on line {first} already; this one is called "
                f"{name!r}", code="name-twice", item=("joints", name),
                remedy="give one of them another name",
            )  # fmt: skip
        return name

    def _joint_type(self, element: etree._Element, name: str) -> str:
        kind = (element.get("type") or "").strip()
        if kind in _JOINT_TYPES:
            return kind
        hint = did_you_mean(kind, _JOINT_TYPES)
        same = next((known for known in _JOINT_TYPES if known == kind.lower()), "fixed")
        words = f"the type {kind!r} is none" if kind else "no type is given"
        self.told.note(
            element, f"joint {name!r}: {words}{hint}; read as {same}",
            code="value-unreadable" if kind else "element-missing",
            item=("joints", name, "type"), remedy=f"write one of {', '.join(_JOINT_TYPES)}",
        )  # fmt: skip
        return same

    def _axis(self, element: etree._Element, item: Item, kind: str) -> list[float]:
        """The direction of a joint; x where it is not said, as the specification has it."""
        told, axis = self.told, element.find("axis")
        where, x = (*item, "axis"), [1.0, 0.0, 0.0]
        if axis is None:
            told.note(
                element, f"joint {item[1]!r}: a {kind} joint without <axis>; it is x then",
                code="axis-assumed", item=where, remedy="say which axis it moves about or along",
            )  # fmt: skip
            return x
        try:
            found = numbers(axis, "xyz", 3)
        except UnreadableError as error:
            told.unreadable(error, where, "taken as x")
            return x
        length = float(np.linalg.norm(found))
        if length < 1e-9:
            error = UnreadableError(axis, f"<axis> xyz={axis.get('xyz')!r} points nowhere")
            told.unreadable(error, where, "taken as x")
            return x
        if abs(length - 1) > 1e-3:
            told.note(
                axis, f"joint {item[1]!r}: the axis has the length {length:.4g}; made a unit",
                code="axis-not-unit", item=where,
                remedy="write a unit vector; some programs scale the motion by its length",
            )  # fmt: skip
        return found

    def _limits(self, joint: str, kind: str, element: etree._Element) -> dict[str, Any]:
        told, item = self.told, ("joints", joint, "limits")
        limits: dict[str, Any] = {}
        limit = element.find("limit")
        if limit is None and kind != "continuous":
            told.note(
                element, f"joint {joint!r}: a {kind} joint without <limit>", code="element-missing",
                item=item, remedy="write <limit lower= upper= effort= velocity=/>",
            )  # fmt: skip
        elif limit is not None:
            missing = [key for key in ("effort", "velocity") if limit.get(key) is None]
            if missing:
                told.note(
                    limit, f"joint {joint!r}: <limit> without {' and '.join(missing)}, which URDF "
                    "requires; taken as unlimited", code="value-assumed", item=item,
                    remedy=f"write {' and '.join(f'{key}=' for key in missing)}",
                )  # fmt: skip
            for key in ("lower", "upper", "effort", "velocity", "acceleration"):
                standard = 0.0 if key in ("lower", "upper") and kind != "continuous" else None
                limits[key] = told.number(limit, key, (*item, key), standard)
            ends = [key for key in ("lower", "upper") if limit.get(key) is None]
            if kind != "continuous" and len(ends) == 2:
                told.note(
                    limit, f"joint {joint!r}: <limit> without lower and upper, which are 0 then: "
                    "it cannot move", code="element-missing", item=item,
                    remedy="write how far it goes",
                )  # fmt: skip
            limits = {k: v if v is None or abs(v) < NO_LIMIT else None for k, v in limits.items()}
        soft = self._soft_limits(element.find("safety_controller"), item)
        return limits if soft is None else limits | {"soft": soft}

    def _soft_limits(self, element: etree._Element | None, item: Item) -> dict[str, Any] | None:
        if element is None:
            return None
        soft = self._numbers(
            element, item, position_gain="k_position", velocity_gain="k_velocity",
            lower="soft_lower_limit", upper="soft_upper_limit",
        )  # fmt: skip
        # The specification's default for both ends is 0; equal ends say nothing.
        if soft.get("lower", 0.0) == soft.get("upper", 0.0):
            soft = {key: value for key, value in soft.items() if key not in ("lower", "upper")}
        elif "lower" not in soft or "upper" not in soft:
            soft = {"lower": 0.0, "upper": 0.0, **soft}
        return soft

    def _numbers(self, element: etree._Element | None, item: Item, **keys: str) -> dict[str, float]:
        """The attributes of an element that are there, by the names of our fields."""
        found = {key: self.told.number(element, said, item) for key, said in keys.items()}
        return {key: value for key, value in found.items() if value is not None}

    def _mimics(self, element: etree._Element) -> None:
        name = element.get("name", "")
        for mimic in element.findall("mimic"):
            item = ("joints", name, "mimic")
            leader = mimic.get("joint", "")
            entry = {
                "follows": leader,
                "ratio": self.told.number(mimic, "multiplier", item, 1.0),
                "offset": self.told.number(mimic, "offset", item, 0.0),
            }
            try:
                self.result.add("coupling", name, entry)
            except ModelError as error:
                self.told.note(
                    mimic, f"joint {name!r} follows {leader!r}: {error}; taken as following none",
                    code="value-unreadable", item=item, remedy="name a joint that moves by itself",
                )  # fmt: skip
            else:
                self.result.places["couplings", name] = self.told.place(mimic)

    # Transmissions.

    def _transmission(self, element: etree._Element) -> bool:
        """What drives a joint: a motor that is told its effort, for URDF gives no gains."""
        told = self.told
        name = element.get("name") or "transmission"
        driven = [e.get("name", "?") for e in element.findall("joint")]
        actuators = [e.get("name") or name for e in element.findall("actuator")]
        if len(driven) != 1 or len(actuators) != 1:
            told.note(
                element,
                f"transmission {name!r} is kept, and not used: it drives "
                f"{', '.join(driven) or 'no joint'} by {', '.join(actuators) or 'no actuator'}, "
                "and a motor drives one joint",
            )
            return False
        texts = [e.text or "" for e in element.iter("mechanicalReduction")]
        entry: dict[str, Any] = {
            "joint": driven[0], "mode": "effort",
            "vendor": [etree.tostring(element, encoding="unicode", with_tail=False)],
        }  # fmt: skip
        try:
            ratio = abs(float(texts[0])) if texts and texts[0].strip() else 1.0
            self.result.add("motor", actuators[0], entry | {"gear_ratio": ratio})
        except (ValueError, ModelError) as error:
            why = str(error) if isinstance(error, ModelError) else f"{texts[0]!r} is no number"
            told.note(
                element, f"transmission {name!r} is kept, and not used: {why}",
                code="value-unreadable", remedy="mend it, or take it away",
            )  # fmt: skip
            return False
        self.result.places["motors", actuators[0]] = told.place(element)
        told.note(
            element,
            f"transmission {name!r} is read as motor {actuators[0]!r}, told its effort: URDF gives "
            "no gains",
        )
        return True

    def _add(
        self, kind: str, name: str, entry: dict[str, Any], element: etree._Element,
        tags: dict[str, str],
    ) -> None:  # fmt: skip
        """Add an item; fields that are wrong are told, and the item added without them."""
        for _ in range(len(entry)):
            try:
                self.result.add(kind, name, entry)
            except EntryError as error:
                wrong = {str(p.path[0]): p for p in error.problems if p.path and p.path[0] in entry}
                if not wrong:
                    raise
                for field, problem in wrong.items():
                    inner = element.find(tags.get(field, "")) if tags.get(field) else None
                    at = ".".join(str(key) for key in problem.path)
                    self.told.note(
                        element if inner is None else inner,
                        f"{kind} {name!r}: {at}: {problem.message}; left out",
                        code="value-unreadable", item=(f"{kind}s", name, field),
                        remedy="write what the message asks for",
                    )  # fmt: skip
                    entry = _without(entry, problem.path)
            else:
                return


def _without(entry: dict[str, Any], path: tuple[str | int, ...]) -> dict[str, Any]:
    """An entry without what stands at a path."""
    first, *rest = path
    inner = entry.get(str(first))
    if rest and isinstance(inner, dict) and rest[0] in inner:
        return entry | {str(first): _without(inner, tuple(rest))}
    return {key: value for key, value in entry.items() if key != first}


def _free(wanted: str, taken: Any) -> str:
    name, number = wanted, 1
    while name in taken:
        number += 1
        name = f"{wanted}_{number}"
    return name
