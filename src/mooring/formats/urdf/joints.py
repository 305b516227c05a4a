"""The joints of a URDF file, and what follows what."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from lxml import etree

from mooring.errors import ModelError, did_you_mean
from mooring.formats.urdf.adding import add_item
from mooring.formats.urdf.told import Item, Told, UnreadableError, child, numbers, required
from mooring.formats.urdf.vocabulary import vendor_parts
from mooring.model import Placement, Robot
from mooring.model.naming import free_name

JOINT_TYPES = ("fixed", "revolute", "continuous", "prismatic", "floating", "planar")
NO_LIMIT = 1e9
"""What is written, and read, for a limit that there is not: URDF wants a number."""


class JointReader:
    """Reads joints into a robot.

    Args:
        robot: to read them into.
        told: what it tells goes there.
    """

    def __init__(self, robot: Robot, told: Told) -> None:
        self.robot, self.told = robot, told

    def joint(self, element: etree._Element) -> None:
        """Read a joint; one without its links is told and left out."""
        told, robot = self.told, self.robot
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
        add_item(robot, told, "joint", name, entry, element, tags)
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
        robot = self.robot
        name = (element.get("name") or "").strip() and element.get("name", "")
        if not name:
            name = free_name(f"{child}_joint", robot.joints)
            self.told.note(
                element, f"a joint without a name; called {name!r}", code="element-missing",
                item=("joints", name), remedy="give it a name",
            )  # fmt: skip
        elif name in robot.joints:
            first, old = robot.places["joints", name].line, name
            name = free_name(name, robot.joints)
            self.told.note(
                element, f"there is a joint {old!r} on line {first} already; this one is called "
                f"{name!r}", code="name-twice", item=("joints", name),
                remedy="give one of them another name",
            )  # fmt: skip
        return name

    def _joint_type(self, element: etree._Element, name: str) -> str:
        kind = (element.get("type") or "").strip()
        if kind in JOINT_TYPES:
            return kind
        hint = did_you_mean(kind, JOINT_TYPES)
        same = next((known for known in JOINT_TYPES if known == kind.lower()), "fixed")
        words = f"the type {kind!r} is none" if kind else "no type is given"
        self.told.note(
            element, f"joint {name!r}: {words}{hint}; read as {same}",
            code="value-unreadable" if kind else "element-missing",
            item=("joints", name, "type"), remedy=f"write one of {', '.join(JOINT_TYPES)}",
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
            nowhere = UnreadableError(axis, f"<axis> xyz={axis.get('xyz')!r} points nowhere")
            told.unreadable(nowhere, where, "taken as x")
            return x
        if abs(length - 1) > 1e-3:
            told.note(
                axis, f"joint {item[1]!r}: the axis has the length {length:.4g}; made a unit",
                code="axis-not-unit", item=where,
                remedy="write a unit vector; some programs scale the motion by its length",
                wanted=(where, tuple(f"{value / length:.9g}" for value in found)),
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
                limits[key] = told.number(limit, key, (*item, key), standard, math.inf)
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

    def mimics(self, element: etree._Element) -> None:
        """Read what a joint follows, once all joints are there."""
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
                self.robot.add("coupling", name, entry)
            except ModelError as error:
                self.told.note(
                    mimic, f"joint {name!r} follows {leader!r}: {error}; taken as following none",
                    code="value-unreadable", item=item, remedy="name a joint that moves by itself",
                )  # fmt: skip
            else:
                self.robot.places["couplings", name] = self.told.place(mimic)
