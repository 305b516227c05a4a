"""Mass properties of a link from what is known of it, each with its source."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
from pydantic import Field

from mooring.cad import Part
from mooring.geometry import Array, inverse
from mooring.model.definition.described import Value
from mooring.model.definition.fields import Mass, Point
from mooring.model.inertia import Inertia, combined
from mooring.model.material import Material, common_material
from mooring.units import show

if TYPE_CHECKING:
    from mooring.model.link import Link


class PointMass(Value):
    """Something heavy that the CAD does not show, such as a cable or ballast.

    Attributes:
        mass: [kg].
        at: where, in link coordinates [m].
    """

    mass: Mass = Field(gt=0)
    at: Point = (0.0, 0.0, 0.0)


@dataclass(frozen=True)
class PartDensity:
    """What a part's mass is computed with.

    Attributes:
        value: [kg/m^3].
        source: whose word it is.
    """

    value: float
    source: str


def link_inertia(
    link: Link, link_frame: Array, materials: Mapping[str, Material]
) -> Inertia | None:
    """Mass properties in link coordinates; None where something needed is not known.

    Given properties win over the geometry; a weighed mass scales what the geometry gives; point
    masses are added to either.

    Args:
        link: the link.
        link_frame: its frame in CAD coordinates, (4, 4).
        materials: the robot's own; the built-in table comes after them.
    """
    total = link.given_inertia
    bodies = () if total is not None else link.weighed_by(link_frame)
    if bodies and (link.parts or link.says_its_mass):
        found = _of_parts(link, bodies, materials)
        total = None if found is None else found.placed(inverse(link.home(link_frame)))
        if total is None and link.parts:
            return None
    if total is None and link.weighed is not None:
        total = Inertia(
            link.weighed, np.zeros(3), np.zeros((3, 3)), "weighed",
            "weighed; all of it at the link's origin, since nothing tells how it is spread",
        )  # fmt: skip
    if link.points:
        total = _with_points(link, total)
    if total is not None and link.assumed:
        words = total.detail.removeprefix("weighed; ")
        total = replace(total, source="assumed", detail=f"assumed; {words}")
    return total


def part_density(link: Link, part: Part, materials: Mapping[str, Material]) -> PartDensity | None:
    """A part's density; None where nobody says."""
    for pattern, name in link.part_materials.items():
        if part.matches(pattern):
            return _of_material(name, materials)
    if link.density is not None:
        return PartDensity(link.density, "a density given for the link")
    if link.material is not None:
        return _of_material(link.material, materials)
    if part.material is not None and part.material.density is not None:
        return PartDensity(part.material.density, f"{part.material.name} (CAD)")
    return None


def _of_material(name: str, materials: Mapping[str, Material]) -> PartDensity | None:
    material = materials.get(name) or common_material(name)
    return None if material is None else PartDensity(material.density, name)


def _of_parts(
    link: Link, parts: Sequence[Part], materials: Mapping[str, Material]
) -> Inertia | None:
    """In the coordinates that the parts are placed in."""
    known = _with_the_rest(link, parts, [part_density(link, part, materials) for part in parts])
    if known is None:
        return None
    bodies = [
        Inertia(
            part.solid.volume * density.value,
            np.asarray(part.solid.centroid),
            part.solid.inertia * density.value,
            "computed",
        )
        for part, density in zip(parts, known, strict=True)
    ]
    names = ", ".join(dict.fromkeys(density.source for density in known))
    sources = "/".join(sorted({part.geometry.source for part in parts}))
    total = combined(bodies, "computed", f"{sources} volume x density of {names}")
    if total.mass <= 0 and not link.parts:
        return None
    if link.weighed is None or total.mass <= 0:
        return total
    return total.scaled_to(link.weighed, f"weighed; distribution from {total.detail}")


def _with_the_rest(
    link: Link, parts: Sequence[Part], densities: Sequence[PartDensity | None]
) -> list[PartDensity] | None:
    """The densities with one for the parts nobody speaks of, where the link is weighed."""
    known = [found for found in densities if found is not None]
    if len(known) == len(densities) or link.weighed is None:
        return known if len(known) == len(densities) else None
    if not known:
        # Only proportions matter when the total is weighed: take one density throughout.
        return [PartDensity(1.0, "one density throughout")] * len(densities)
    pairs = list(zip(parts, densities, strict=True))
    rest = link.weighed - sum(p.solid.volume * d.value for p, d in pairs if d is not None)
    volume = sum(p.solid.volume for p, d in pairs if d is None)
    if rest <= 0 or volume <= 0:
        return None
    words = f"what is left of its weight for {sum(d is None for d in densities)} parts"
    return [d or PartDensity(rest / volume, words) for d in densities]


def _with_points(link: Link, body: Inertia | None) -> Inertia:
    points = [
        Inertia(point.mass, np.array(point.at), np.zeros((3, 3)), "given") for point in link.points
    ]
    added = show(sum(point.mass for point in link.points), "mass")
    what = "1 point" if len(points) == 1 else f"{len(points)} points"
    if body is None:
        return combined(points, "given", f"{added} in {what}")
    return combined([body, *points], body.source, f"{body.detail}, and {added} in {what}")


def total_mass(links: Iterable[Link], materials: Mapping[str, Material]) -> float:
    """Mass of the links whose mass is known [kg]."""
    found = (link.mass_properties(np.eye(4), materials) for link in links)
    return sum(inertia.mass for inertia in found if inertia is not None)
