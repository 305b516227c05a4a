"""What somebody points at, as features that a document can name."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from mooring.cad import Assembly, Part
from mooring.cad.places.axis import words_of
from mooring.cad.places.edges import straight_edge
from mooring.cad.surfaces import CylindricalFace, PlanarFace
from mooring.errors import ModelError
from mooring.formats.document.drafting.text import pattern_of
from mooring.geometry import Array, apply
from mooring.model import Robot
from mooring.units import show

_NEAR = 2e-3
"""Of the part's size; triangles are off their surfaces by less."""
_AIMED = 0.04
"""Of the part's size: an edge that is nearer may be what is meant."""


@dataclass(frozen=True)
class Feature:
    """Something of a part that has a place.

    Attributes:
        words: what it is.
        at: as a document has it; None where it has no name.
        direction: along its axis or edge, or out of its face, in CAD coordinates, (3,).
    """

    words: str
    at: dict[str, Any] | None
    direction: tuple[float, ...] = ()


@dataclass(frozen=True)
class Pointed:
    """A part, and what of it is under the pointer.

    Attributes:
        link: whose part it is.
        part: its name.
        point: in CAD coordinates, (3,) [m].
        surface: what was hit.
        edge: the straight edge beside it; None where none is near.
    """

    link: str
    part: str
    point: tuple[float, ...]
    surface: Feature
    edge: Feature | None

    @property
    def named(self) -> tuple[Feature, ...]:
        """Those that a document can name."""
        found = (self.surface, *([] if self.edge is None else [self.edge]))
        return tuple(feature for feature in found if feature.at is not None)


def pointed_at(robot: Robot, link: str, point: Array) -> Pointed | None:
    """What is at a point of a link, (3,) in its coordinates; None where it has no CAD parts."""
    parts = robot.links[link].parts
    if not parts or robot.links[link].cad_frame is not None or not robot.assemblies:
        return None
    place = apply(robot.link_frames()[link], point)
    part = min(parts, key=lambda one: float(one.boxes.distances(place[None])[0]))
    surface = _surface(robot.assemblies[0], part, _face_at(part, place))
    return Pointed(link, part.name, tuple(map(float, place)), surface, _edge_at(part, place))


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


def _surface(assembly: Assembly, part: Part, face: PlanarFace | CylindricalFace | None) -> Feature:
    """With as little as tells it from others of the part."""
    if face is None:
        return Feature("a surface without a name", None)
    name, near = pattern_of(part.name), _millimetres(face.centre)
    if isinstance(face, CylindricalFace):
        words = f"{face.kind} of radius {show(face.radius, 'length', 3)}"
        try:
            assembly.axis([part])
        except ModelError:
            return Feature(words, {"axis": name, "near": near}, tuple(face.direction))
        return Feature(words, {"axis": name}, tuple(face.direction))
    toward = words_of(face.normal)
    at: dict[str, Any] = {"face": name, "toward": toward}
    outermost = assembly.face([part], toward)
    if abs(float((outermost.origin - face.centre) @ face.normal)) > 1e-5:
        at["near"] = near
    return Feature(f"flat face toward {_told(toward)}", at, tuple(face.normal))


def _edge_at(part: Part, place: Array) -> Feature | None:
    try:
        edge = straight_edge([part], place)
    except ModelError:
        return None
    along = edge.direction
    off = place - edge.origin
    if np.linalg.norm(off - (off @ along) * along) > _AIMED * np.linalg.norm(part.size):
        return None
    at = {"edge": pattern_of(part.name), "near": _millimetres(edge.origin)}
    return Feature(f"edge along {_told(words_of(along))}", at, tuple(along))


def _told(way: str | list[float]) -> str:
    return way if isinstance(way, str) else ", ".join(f"{value:.3g}" for value in way)


def _millimetres(place: Array) -> list[str]:
    return [f"{round(1000 * value, 2) + 0.0:g} mm" for value in place]
