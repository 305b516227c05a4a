"""Finding the flat face that a frame or an axis is to stand on."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from mooring.cad.part import Part
from mooring.cad.places.axis import Axis
from mooring.cad.surfaces import PlanarFace
from mooring.errors import ModelError
from mooring.geometry import Array

_TOWARD = float(np.cos(np.radians(1.0)))
_LEVEL = 1e-5
"""[m]; flat faces this close to one level are one face in pieces, as the two cheeks of a fork."""


def flat_face(parts: Sequence[Part], toward: Array, near: Array | None = None) -> Axis:
    """The outermost flat face of some parts in a direction, as its centre and outward normal.

    Args:
        parts: to search.
        toward: (3,), which way the face looks.
        near: instead of the outermost, take the one whose centre is nearest to a point (3,) [m].

    Raises:
        ModelError: no flat face looks that way; the message lists where they do look.
    """
    toward = toward / np.linalg.norm(toward)
    faces = [(part, plane) for part in parts for plane in part.planes]
    looking = [(part, plane) for part, plane in faces if plane.normal @ toward > _TOWARD]
    names = " + ".join(part.name for part in parts[:3]) + (" + ..." if len(parts) > 3 else "")
    if not looking:
        raise ModelError(f"{names} has no flat face toward {_direction(toward)}{_listed(faces)}")
    if near is None:
        level = max(float(plane.centre @ toward) for _, plane in looking)
        chosen = [item for item in looking if item[1].centre @ toward > level - _LEVEL]
    else:
        chosen = [min(looking, key=lambda item: float(np.linalg.norm(item[1].centre - near)))]
    areas = np.array([plane.area for _, plane in chosen])
    centre = areas @ np.array([plane.centre for _, plane in chosen]) / areas.sum()
    part, largest = max(chosen, key=lambda item: item[1].area)
    normal = np.where(np.abs(largest.normal) < 1e-12, 0.0, largest.normal)
    return Axis(
        origin=np.where(np.abs(centre) < 1e-12, 0.0, centre),
        direction=normal,
        radius=0.0,
        found=f"flat face of {part.name} toward {_direction(normal)}",
        outward=True,
    )


def _listed(faces: Sequence[tuple[Part, PlanarFace]]) -> str:
    if not faces:
        return "; it has no flat faces"
    directions: dict[str, float] = {}
    for _, plane in faces:
        words = _direction(plane.normal)
        directions[words] = directions.get(words, 0.0) + plane.area
    largest = sorted(directions, key=lambda words: -directions[words])[:6]
    more = f" and {len(directions) - 6} other ways" if len(directions) > 6 else ""
    return f"; its flat faces look toward {', '.join(largest)}{more}"


def _direction(vector: Array) -> str:
    for name, unit in zip("xyz", np.eye(3), strict=True):
        if abs(vector @ unit) > 1 - 1e-6:
            return ("+" if vector @ unit > 0 else "-") + name
    return "(" + ", ".join(f"{value + 0.0:.3g}" for value in vector) + ")"
