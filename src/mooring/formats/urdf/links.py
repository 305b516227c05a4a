"""The links of a URDF file."""

from __future__ import annotations

from typing import Any

import numpy as np
from lxml import etree

from mooring.formats.urdf.adding import add_item
from mooring.formats.urdf.shapes import ShapeReader
from mooring.formats.urdf.told import Item, Told, UnreadableError, required
from mooring.formats.urdf.vocabulary import vendor_parts
from mooring.model import PlacedShape, Robot


class LinkReader:
    """Reads links into a robot.

    Args:
        robot: to read them into.
        told: what it tells goes there.
        shapes: reads what they look like and collide with.
    """

    def __init__(self, robot: Robot, told: Told, shapes: ShapeReader) -> None:
        self.robot, self.told, self.shapes = robot, told, shapes

    def link(self, element: etree._Element) -> None:
        """Read a link; one without a name, or with that of another, is told and left out."""
        robot = self.robot
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
        add_item(robot, self.told, "link", name, entry, element, {})
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
