"""Finding the axis that a bore shares with another bore or a pin."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mooring.cad.part import Part
from mooring.cad.places.axis import Axis, with_usual_sign
from mooring.cad.surfaces import FULL_ENOUGH, CylindricalFace, coaxial
from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.units import show

# A pin may be this much thinner than its bore and still be its pin (running fits, bushes).
LARGEST_RADIUS_DIFFERENCE = 0.1


@dataclass(frozen=True, eq=False)
class _Fit:
    """A bore and its counterpart on one axis."""

    one: CylindricalFace
    other: CylindricalFace
    parts: tuple[str, str]

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

    Args:
        first, second: the parts to search.
        radius: keep only fits whose radius is within 5% of this [m].
        near: of several, take the one whose origin is nearest to this point, (3,) [m].

    Raises:
        ModelError: no axis is shared, or several are; the message lists them.
    """
    fits = [fit for a in first for b in second for fit in _fits(a, b)]
    if radius is not None:
        fits = [f for f in fits if abs(f.one.radius - radius) <= 0.05 * radius]
    axes = _distinct(fits)
    names = f"{_names(first)} and {_names(second)}"
    if not axes:
        wanted = "" if radius is None else f" of radius {show(radius, 'length')}"
        raise ModelError(
            f"{names} share no bore{wanted}: no bore in the one has a bore or pin of the same "
            f"radius on its axis in the other{_what_there_is(first, second)}"
        )
    if near is not None:
        axes.sort(key=lambda fit: float(np.linalg.norm(fit.origin - near)))
    elif len(axes) > 1:
        listed = "; ".join(
            f"radius {show(f.one.radius, 'length')} {_at(f.origin)}" for f in axes[:6]
        )
        more = f"; and {len(axes) - 6} more" if len(axes) > 6 else ""
        raise ModelError(
            f"{names} share {len(axes)} bores: {listed}{more}; choose with radius= or near="
        )
    best = axes[0]
    return Axis(
        origin=np.where(np.abs(best.origin) < 1e-12, 0.0, best.origin),
        direction=with_usual_sign(best.one.direction),
        radius=best.one.radius,
        found=f"{best.one.kind} in {best.parts[0]} and {best.other.kind} in {best.parts[1]}",
    )


def _fits(a: Part, b: Part) -> list[_Fit]:
    ours = [c for c in a.cylinders if c.coverage >= FULL_ENOUGH]
    theirs = [c for c in b.cylinders if c.coverage >= FULL_ENOUGH]
    return [
        _Fit(one, other, (a.name, b.name))
        for one in ours
        for other in theirs
        if "bore" in (one.kind, other.kind)
        and abs(one.radius - other.radius)
        <= LARGEST_RADIUS_DIFFERENCE * max(one.radius, other.radius)
        and coaxial(one, other)
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


def _at(point: Array) -> str:
    x, y, z = (f"{1000 * value:.4g}" for value in point + 0.0)
    return f"at ({x}, {y}, {z}) mm"
