"""Finding the axis that a bore shares with another bore or a pin, or that a part has alone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mooring.cad.part import Part
from mooring.cad.places.axis import Axis, with_usual_sign
from mooring.cad.surfaces import FULL_ENOUGH, CylindricalFace, coaxial
from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.units import show, show_point

# A pin may be this much thinner than its bore and still be its pin (running fits, bushes).
LARGEST_RADIUS_DIFFERENCE = 0.1


@dataclass(frozen=True, eq=False)
class _Fit:
    """Two round faces on one axis."""

    one: CylindricalFace
    other: CylindricalFace
    parts: tuple[str, str]

    @property
    def fitting(self) -> bool:
        """Whether the one runs in the other, or a pin through both."""
        radii = self.one.radius, self.other.radius
        near = abs(radii[0] - radii[1]) <= LARGEST_RADIUS_DIFFERENCE * max(radii)
        return near and "bore" in (self.one.kind, self.other.kind)

    @property
    def words(self) -> str:
        """From what the axis was found."""
        if self.one is self.other:
            return f"{self.one.kind} in {self.parts[0]}"
        words = f"{self.one.kind} in {self.parts[0]} and {self.other.kind} in {self.parts[1]}"
        if self.fitting:
            return words
        radii = " and ".join(show(face.radius, "length") for face in (self.one, self.other))
        return f"{words}, which share an axis but not a radius ({radii})"

    @property
    def origin(self) -> Array:
        """The middle of the stretch where both are, or of the gap between them."""
        shift = float((self.other.centre - self.one.centre) @ self.one.direction)
        ends = sorted(
            (
                -self.one.length / 2,
                self.one.length / 2,
                shift - self.other.length / 2,
                shift + self.other.length / 2,
            )
        )
        return self.one.centre + self.one.direction * (ends[1] + ends[2]) / 2


def shared_axis(
    first: Sequence[Part],
    second: Sequence[Part],
    radius: float | None = None,
    near: Array | None = None,
) -> Axis:
    """The axis shared by a bore in one group of parts and a bore or pin in another.

    Where none is of the other's radius, any two round faces on one axis will do.

    Args:
        first, second: the parts to search.
        radius: keep only fits whose radius is within 5% of this [m].
        near: of several, take the one whose origin is nearest to this point, (3,) [m].

    Raises:
        ModelError: no axis is shared, or several are; the message lists them.
    """
    fits = [fit for a in first for b in second for fit in _fits(a, b)]
    fits = [fit for fit in fits if fit.fitting] or fits
    names = f"{_names(first)} and {_names(second)}"
    if not (chosen := _of_radius(_distinct(fits), radius)):
        wanted = "" if radius is None else f" of radius {show(radius, 'length')}"
        raise ModelError(
            f"{names} share no axis{wanted}: no round face of the one has a round face of the "
            f"other on its axis{_what_there_is(first, second)}"
        )
    return _only(chosen, near, f"{names} share")


def own_axis(parts: Sequence[Part], radius: float | None = None, near: Array | None = None) -> Axis:
    """The axis of the round faces of some parts.

    Args:
        parts: to search.
        radius, near: as for `shared_axis`.

    Raises:
        ModelError: there is no round face, or there are several axes; the message lists them.
    """
    faces = [(part, c) for part in parts for c in part.cylinders if c.coverage >= FULL_ENOUGH]
    alone = [_Fit(face, face, (part.name, part.name)) for part, face in faces]
    # Of faces on one axis the largest stands for all.
    alone = sorted(_of_radius(alone, radius), key=lambda fit: -fit.one.radius)
    if not (chosen := _distinct(alone)):
        wanted = "" if radius is None else f" of radius {show(radius, 'length')}"
        raise ModelError(f"{_names(parts)} has no round face{wanted}")
    return _only(chosen, near, f"{_names(parts)} has")


def _of_radius(fits: list[_Fit], radius: float | None) -> list[_Fit]:
    return [f for f in fits if radius is None or abs(f.one.radius - radius) <= 0.05 * radius]


def _only(axes: list[_Fit], near: Array | None, whose: str) -> Axis:
    """The one axis, or the nearest to a point."""
    if near is not None:
        axes = sorted(axes, key=lambda fit: float(np.linalg.norm(fit.origin - near)))
    elif len(axes) > 1:
        listed = "; ".join(
            f"radius {show(f.one.radius, 'length')} at {show_point(f.origin)}" for f in axes[:6]
        )
        more = f"; and {len(axes) - 6} more" if len(axes) > 6 else ""
        raise ModelError(f"{whose} {len(axes)} axes: {listed}{more}; choose with radius= or near=")
    best = axes[0]
    return Axis(
        origin=np.where(np.abs(best.origin) < 1e-12, 0.0, best.origin),
        direction=with_usual_sign(best.one.direction),
        radius=best.one.radius,
        found=best.words,
    )


def _fits(a: Part, b: Part) -> list[_Fit]:
    ours = [c for c in a.cylinders if c.coverage >= FULL_ENOUGH]
    theirs = [c for c in b.cylinders if c.coverage >= FULL_ENOUGH]
    return [
        _Fit(one, other, (a.name, b.name))
        for one in ours
        for other in theirs
        if one is not other and coaxial(one, other)
    ]


def _distinct(fits: list[_Fit]) -> list[_Fit]:
    """One fit for each axis: the one with the most nearly equal radii."""
    fits = sorted(fits, key=lambda f: abs(f.one.radius - f.other.radius))
    kept: list[_Fit] = []
    for fit in fits:
        if not any(coaxial(fit.one, other.one) for other in kept):
            kept.append(fit)
    return kept


def _what_there_is(*groups: Sequence[Part]) -> str:
    parts = [part for group in groups for part in group]
    if not any(part.geometry.cylinders for part in parts):
        return "; neither has any round face"
    return ""


def _names(parts: Sequence[Part]) -> str:
    return " + ".join(part.name for part in parts[:3]) + (" + ..." if len(parts) > 3 else "")
