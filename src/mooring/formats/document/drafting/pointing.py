"""What somebody points at, as a feature that a document can name."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from mooring.cad import Assembly, Part
from mooring.cad.places.axis import words_of
from mooring.cad.surfaces import CylindricalFace, PlanarFace
from mooring.errors import ModelError
from mooring.formats.document.drafting.text import pattern_of
from mooring.geometry import Array, apply
from mooring.model import Robot
from mooring.units import show

_NEAR = 2e-3
"""Of the part's size; triangles are off their surfaces by less."""


@dataclass(frozen=True)
class Pointed:
    """A part, and the feature of it that is under the pointer.

    Attributes:
        link: whose part it is.
        part: its name.
        point: in CAD coordinates, (3,) [m].
        feature: in words.
        at: the feature as a document has it; None where the surface there has no name.
    """

    link: str
    part: str
    point: tuple[float, ...]
    feature: str
    at: dict[str, Any] | None


def pointed_at(robot: Robot, link: str, point: Array) -> Pointed | None:
    """What is at a point of a link, (3,) in its coordinates; None where it has no CAD parts."""
    parts = robot.links[link].parts
    if not parts or robot.links[link].cad_frame is not None or not robot.assemblies:
        return None
    place = apply(robot.link_frames()[link], point)
    part = min(parts, key=lambda one: float(one.boxes.distances(place[None])[0]))
    face = _face_at(part, place)
    words, at = _feature(robot.assemblies[0], part, face)
    return Pointed(link, part.name, tuple(map(float, place)), words, at)


def _face_at(part: Part, place: Array) -> PlanarFace | CylindricalFace | None:
    size = float(np.linalg.norm(part.size))
    found: list[tuple[float, PlanarFace | CylindricalFace]] = []
    faces: list[PlanarFace | CylindricalFace] = [*part.planes, *part.cylinders]
    for face in faces:
        near = np.linalg.norm(place - face.centre) <= 1.01 * face.reach + _NEAR * size
        if near:
            found.append((float(face.distance(place[None])[0]), face))
    if not found:
        return None
    off, nearest = min(found, key=lambda one: one[0])
    return nearest if off < _NEAR * size else None


def _feature(
    assembly: Assembly, part: Part, face: PlanarFace | CylindricalFace | None
) -> tuple[str, dict[str, Any] | None]:
    """In words, and with as little as tells it from others of the part."""
    if face is None:
        return "a surface without a name", None
    name = pattern_of(part.name)
    near = [f"{round(1000 * value, 2) + 0.0:g} mm" for value in face.centre]
    if isinstance(face, CylindricalFace):
        words = f"{face.kind} of radius {show(face.radius, 'length', 3)}"
        try:
            assembly.axis([part])
        except ModelError:
            return words, {"axis": name, "near": near}
        return words, {"axis": name}
    toward = words_of(face.normal)
    at: dict[str, Any] = {"face": name, "toward": toward}
    outermost = assembly.face([part], toward)
    if abs(float((outermost.origin - face.centre) @ face.normal)) > 1e-5:
        at["near"] = near
    return f"flat face toward {toward}", at
