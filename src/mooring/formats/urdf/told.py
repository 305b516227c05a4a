"""What a reader of URDF tells, and numbers that it can or cannot read."""

from __future__ import annotations

import math
from pathlib import Path
from typing import cast

import numpy as np
from lxml import etree

from mooring.errors import Place
from mooring.geometry import Array, placement, rotation_from_rpy
from mooring.model.note import MOST_ANGLE, Note

Item = tuple[str, ...]
MOST = 1e12
"""No length, mass or moment is larger, in SI."""


class UnreadableError(Exception):
    """Something cannot be read as what it should be; told with the place of the element."""

    def __init__(self, element: etree._Element, message: str, code: str = "value-unreadable"):
        super().__init__(message)
        self.element = element
        self.code = code


class Told:
    """The notes of one reading.

    Attributes:
        file: which is read.
        notes: what was told.
    """

    def __init__(self, file: Path) -> None:
        self.file = file
        self.notes: list[Note] = []

    def place(self, element: etree._Element) -> Place:
        """Where an element begins."""
        return Place(self.file, cast("int | None", element.sourceline))

    def note(
        self,
        element: etree._Element,
        text: str,
        *,
        code: str = "",
        item: Item = (),
        remedy: str = "",
        respell: tuple[str, ...] = (),
        wanted: tuple[tuple[str, ...], tuple[str, ...]] | None = None,
    ) -> None:
        """Tell something about an element; see `Note`."""
        place = self.place(element)
        self.notes.append(Note(text, code, item, remedy, place, respell, wanted))

    def unreadable(self, error: UnreadableError, item: Item, instead: str) -> None:
        """Tell what cannot be read, and what was done instead."""
        remedies = {
            "size-not-positive": "write a size greater than zero",
            "element-missing": "write it",
        }
        self.note(
            error.element, f"{error}; {instead}", code=error.code, item=item,
            remedy=remedies.get(error.code, "write what the message asks for"),
        )  # fmt: skip

    # Values, of which those that are wrong are told and taken as if they were not there.

    def number(
        self,
        element: etree._Element | None,
        key: str,
        item: Item,
        missing: float | None = None,
        most: float = MOST,
    ) -> float | None:
        """The number of an attribute; `missing` where it is not there, or is no number."""
        if element is None or element.get(key) is None:
            return missing
        try:
            return numbers(element, key, 1, most)[0]
        except UnreadableError as error:
            instead = "taken as not given" if missing is None else f"taken as {missing:g}"
            self.unreadable(error, item, instead)
            return missing

    def origin(self, element: etree._Element, item: Item) -> Array:
        """The placement of an element's `<origin>`, (4, 4); at its parent where there is none."""
        origin = element.find("origin")
        if origin is None:
            return np.eye(4)
        found = {}
        for key in ("xyz", "rpy"):
            found[key] = [0.0, 0.0, 0.0]
            if (origin.get(key) or "").strip():
                try:
                    found[key] = numbers(origin, key, 3)
                except UnreadableError as error:
                    self.unreadable(error, item, "taken as 0 0 0")
        self._look_at_angles(origin, found["rpy"], item)
        return placement(found["xyz"], rotation_from_rpy(found["rpy"]))

    def _look_at_angles(self, origin: etree._Element, rpy: list[float], item: Item) -> None:
        largest = max(rpy, key=abs)
        if abs(largest) > MOST_ANGLE:
            self.note(
                origin, f"rpy={origin.get('rpy')!r}: {largest:g} rad is "
                f"{abs(largest) / math.tau:.3g} turns; degrees?", code="angle-unlikely", item=item,
                remedy=f"URDF has radians: {largest:g} deg is {math.radians(largest):.6g}",
            )  # fmt: skip


def required(element: etree._Element, key: str) -> str:
    """An attribute that must be there.

    Raises:
        UnreadableError: it is not.
    """
    value = element.get(key)
    if value is None or not value.strip():
        raise UnreadableError(element, f"<{element.tag}> has no {key}", "element-missing")
    return value


def child(element: etree._Element, tag: str) -> etree._Element:
    """An element that must be there.

    Raises:
        UnreadableError: it is not.
    """
    found = element.find(tag)
    if found is None:
        owner = f" {element.get('name')!r}" if element.get("name") else ""
        raise UnreadableError(element, f"<{element.tag}>{owner} has no <{tag}>", "element-missing")
    return found


def numbers(element: etree._Element, key: str, count: int, most: float = MOST) -> list[float]:
    """The numbers of an attribute, none larger than `most`.

    Raises:
        UnreadableError: they are none, or not as many.
    """
    text = required(element, key)
    said = f"<{element.tag}> {key}={text!r}"
    try:
        values = [float(word) for word in text.split()]
    except ValueError:
        hint = ""
        if "," in text:
            hint = "; numbers are parted by spaces, and have a decimal point"
        elif any(word[:1].isdigit() and word[-1:].isalpha() for word in text.split()):
            hint = "; URDF has no units: lengths are in m, angles in rad"
        raise UnreadableError(element, f"{said} holds no numbers{hint}") from None
    if len(values) != count or not np.isfinite(values).all():
        what = "a finite number" if count == 1 else f"{count} finite numbers"
        raise UnreadableError(element, f"{said} must be {what}")
    if max(map(abs, values)) > most:
        raise UnreadableError(element, f"{said} is more than anything there is")
    return values
