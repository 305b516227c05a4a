"""How two parts that touch can move against each other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from mooring.cad.part import Part
from mooring.cad.places.axis import Axis, with_usual_sign
from mooring.cad.surfaces import FULL_ENOUGH, CylindricalFace, PlanarFace, coaxial
from mooring.cad.touching.contacts import triangles_within
from mooring.errors import ModelError
from mooring.geometry import Array

# A pin fits its bore when their radii differ by no more than this share.
_FIT = 0.02
# Facets of one round face lean against each other by this much.
_COSINE = float(np.cos(np.radians(14)))
# A slide's long member is at least this many times as long as its short one.
_SLIDE_RATIO = 3.0


@dataclass(frozen=True, eq=False)
class Turning:
    """A pin of one part in a bore of the other.

    Attributes:
        origin: the middle of the stretch where both are, (3,) [m].
        direction: unit vector, (3,).
        radius: [m].
        free: whether it can slide as well as turn, for want of a shoulder.
        room: how far it can slide either way [m].
    """

    origin: Array
    direction: Array
    radius: float
    free: bool
    room: float


@dataclass(frozen=True, eq=False)
class Relation:
    """What holds between two parts.

    Attributes:
        kind: `"turning"` about one axis; `"flat"`, faces against each other; `"rigid"`, anything
            that leaves no motion.
        turning: for the first kind.
        normals: (k, 3) of the flat faces.
        area: about how much of them lies against each other, for the second kind [m^2].
    """

    kind: Literal["turning", "flat", "rigid"]
    turning: Turning | None
    normals: Array
    area: float = 0.0


def relation_of(one: Part, other: Part, tolerance: float) -> Relation:
    """How two parts that touch can move against each other."""
    normals, area = _lying_against(one, other, tolerance)
    pairs = _pins_in_bores(one, other)
    if pairs:
        first = pairs[0][0]
        if any(not coaxial(first, pin) for pin, _ in pairs):
            return Relation("rigid", None, normals)
        axis = first.direction
        along = np.abs(normals @ axis)
        # Facets of the round face itself stand across the axis, in many directions.
        across = normals[along < 0.1]
        if ((along >= 0.1) & (along < 0.99)).any() or _lies_flat_across(across):
            return Relation("rigid", None, normals)
        shoulder = bool((along >= 0.99).any())
        pin, bore = max(pairs, key=lambda pair: min(pair[0].length, pair[1].length))
        return Relation("turning", _turning(pin, bore, shoulder), normals[along >= 0.99])
    if not len(normals):
        return Relation("rigid", None, normals)
    # Of a large triangle only a corner may lie against the other part.
    return Relation("flat", None, normals, min(area, _lying_against(other, one, tolerance)[1]))


def shared_slide(first: Sequence[Part], second: Sequence[Part], tolerance: float) -> Axis:
    """The direction in which faces of two groups of parts slide along each other.

    Raises:
        ModelError: their faces do not touch, or leave more or less than one way to slide.
    """
    found, middles = [], []
    for one in first:
        for other in second:
            normals = _flat_normals(one, other, tolerance)
            if len(normals):
                found.append(normals)
                middles.append(one.vertices.mean(axis=0))
    names = f"{first[0].name} and {second[0].name}"
    if not found:
        raise ModelError(f"no faces of {names} lie against each other")
    direction = slide_direction(np.concatenate(found))
    if direction is None:
        raise ModelError(
            f"the faces of {names} that lie against each other leave more than one way to slide, "
            "or none; give the axis instead"
        )
    return Axis(np.mean(middles, axis=0), direction, 0.0, f"faces of {names}")


def is_axle(part: Part) -> bool:
    """Whether a part is nothing but a pin, which turns with either of the parts it joins."""
    pins = [c for c in part.geometry.cylinders if c.kind == "pin" and c.coverage >= FULL_ENOUGH]
    bores = [c for c in part.geometry.cylinders if c.kind == "bore"]
    if len(pins) != 1 or bores:
        return False
    volume = np.pi * pins[0].radius ** 2 * pins[0].length
    return bool(abs(part.volume / volume - 1) < 0.05)


def is_round_about(part: Part, turning: Turning) -> bool:
    """Whether a part looks the same however far it is turned about an axis."""

    def on_axis(point: Array) -> bool:
        arm = point - turning.origin
        aside = arm - turning.direction * (arm @ turning.direction)
        return bool(np.linalg.norm(aside) < 1e-4)

    for face in part.surfaces:
        along = face.normal if isinstance(face, PlanarFace) else getattr(face, "direction", None)
        if along is not None and abs(along @ turning.direction) < 0.99999:
            return False
        if not on_axis(face.centre):
            return False
    return any(isinstance(face, CylindricalFace) for face in part.surfaces)


def slide_direction(normals: Array) -> Array | None:
    """The only direction in which faces with these normals can slide past each other, or None."""
    if len(normals) < 2:
        return None
    spread, directions = np.linalg.eigh(normals.T @ normals / len(normals))
    if spread[0] < 1e-6 and spread[1] > 1e-3:
        return with_usual_sign(directions[:, 0])
    return None


def _pins_in_bores(one: Part, other: Part) -> list[tuple[CylindricalFace, CylindricalFace]]:
    """Pins (first) and the bores they are in (second), on either side."""
    found = []
    for a, b in ((one, other), (other, one)):
        for pin in a.cylinders:
            for bore in b.cylinders:
                if (
                    (pin.kind, bore.kind) == ("pin", "bore")
                    and min(pin.coverage, bore.coverage) >= FULL_ENOUGH
                    and abs(pin.radius - bore.radius) <= _FIT * bore.radius
                    and coaxial(pin, bore)
                    and _shared_length(pin, bore) > 0.2 * pin.radius
                ):
                    found.append((pin, bore))
    return found


def _shared_length(pin: CylindricalFace, bore: CylindricalFace) -> float:
    shift = float((bore.centre - pin.centre) @ pin.direction)
    low = max(-pin.length / 2, shift - bore.length / 2)
    high = min(pin.length / 2, shift + bore.length / 2)
    return high - low


def _turning(pin: CylindricalFace, bore: CylindricalFace, shoulder: bool) -> Turning:
    shift = float((bore.centre - pin.centre) @ pin.direction)
    low = max(-pin.length / 2, shift - bore.length / 2)
    high = min(pin.length / 2, shift + bore.length / 2)
    lengths = sorted((pin.length, bore.length))
    return Turning(
        origin=pin.centre + pin.direction * (low + high) / 2,
        direction=with_usual_sign(pin.direction),
        radius=bore.radius,
        free=not shoulder and lengths[1] >= _SLIDE_RATIO * lengths[0],
        room=(lengths[1] - lengths[0]) / 2,
    )


def _lies_flat_across(normals: Array) -> bool:
    """Whether normals across an axis stand for flat faces: few directions, many triangles apart."""
    if not len(normals):
        return False
    cells = np.unique(np.round(normals, 1), axis=0)
    return len(cells) <= 2


def _flat_normals(one: Part, other: Part, tolerance: float) -> Array:
    """The unit normals (k, 3) of the triangles of one part that lie against the other."""
    return _lying_against(one, other, tolerance)[0]


def _lying_against(one: Part, other: Part, tolerance: float) -> tuple[Array, float]:
    """The triangles of one part that lie against the other: normals (k, 3), and area [m^2]."""
    low = np.maximum(one.vertices.min(axis=0), other.vertices.min(axis=0)) - tolerance
    high = np.minimum(one.vertices.max(axis=0), other.vertices.max(axis=0)) + tolerance
    first = triangles_within(one, low, high)
    if not len(first):
        return np.zeros((0, 3)), 0.0
    against = first[other.boxes.facing(first, tolerance, _COSINE)]
    cross = np.cross(against[:, 1] - against[:, 0], against[:, 2] - against[:, 0])
    lengths = np.linalg.norm(cross, axis=1)
    return cross / lengths[:, None], float(lengths.sum()) / 2
