"""Links: the bodies of a robot."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from mooring.cad import Part
from mooring.geometry import Array, inverse
from mooring.model.collision import CollisionRule, Fit, fit
from mooring.model.inertia import Inertia, combined
from mooring.model.material import Material, common_material
from mooring.model.placement import Placement
from mooring.model.shapes import MeshShape, PlacedShape


@dataclass(eq=False)
class Link:
    """One rigid body.

    Attributes:
        name: unique among the robot's links.
        parts: the CAD parts that move together as this link.
        material: the name of the material of its parts; None leaves each part the material that
            the CAD file states.
        weighed: the mass it was weighed at [kg]; scales what the geometry gives.
        given_inertia: mass properties given in full, in link coordinates; wins over the parts.
        extra_visuals: shapes to draw besides the parts.
        collision_rules: by which shapes are fitted around its parts; None where nothing was said.
        given_collisions: shapes it collides with besides those.
        cad_frame: the link's frame in the coordinates of the CAD that its parts come from, (4, 4),
            for a link that came with another robot; None where that is this robot's own CAD.
        included_as: which inclusion it came with; links of different inclusions share parts.
    """

    name: str
    parts: tuple[Part, ...] = ()
    material: str | None = None
    weighed: float | None = None
    given_inertia: Inertia | None = None
    extra_visuals: list[PlacedShape] = field(default_factory=list)
    collision_rules: tuple[CollisionRule, ...] | None = None
    given_collisions: list[PlacedShape] = field(default_factory=list)
    cad_frame: Array | None = None
    included_as: str = ""

    @cached_property
    def collisions(self) -> list[PlacedShape]:
        """The shapes it collides with; fitted when first asked for, which takes a moment."""
        fitted = [shape for found in self.collision_fits for shape in found.shapes]
        return [*self.given_collisions, *(self._at_home(shape) for shape in fitted)]

    @cached_property
    def collision_fits(self) -> list[Fit]:
        """What its rules came to, one each."""
        return [fit(rule, self.parts) for rule in self.collision_rules or ()]

    def visuals(self, materials: Mapping[str, Material]) -> list[PlacedShape]:
        """Everything that is drawn: the parts, then the extra shapes."""
        material = materials.get(self.material or "")
        fallback = None if material is None else material.color
        shown = [
            self._at_home(
                PlacedShape(
                    MeshShape(part.mesh, part.geometry.name or part.name),
                    Placement(part.placement, "cad"),
                    part.name,
                    fallback or part.color,
                )
            )
            for part in self.parts
        ]
        return shown + self.extra_visuals

    def inertia(self, link_frame: Array, materials: Mapping[str, Material]) -> Inertia | None:
        """Mass properties in link coordinates; None where something needed is not known.

        Args:
            link_frame: the link's frame in CAD coordinates, (4, 4).
            materials: the robot's own materials; the built-in table comes after them.
        """
        if self.given_inertia is not None:
            return self.given_inertia
        found = self._inertia_of_parts(materials)
        home = link_frame if self.cad_frame is None else self.cad_frame
        return None if found is None else found.placed(inverse(home))

    def density(self, part: Part, materials: Mapping[str, Material]) -> tuple[float, str] | None:
        """A part's density [kg/m^3] and whose word it is; None where nobody says."""
        if self.material is not None:
            material = materials.get(self.material) or common_material(self.material)
            return None if material is None else (material.density, self.material)
        if part.material is not None and part.material.density is not None:
            return part.material.density, f"{part.material.name} (CAD)"
        return None

    def _at_home(self, shape: PlacedShape) -> PlacedShape:
        """A shape found in CAD coordinates; on the link, where those are of another CAD."""
        if self.cad_frame is None:
            return shape
        place = Placement(shape.placement.in_link(self.cad_frame))
        return PlacedShape(shape.shape, place, shape.name, shape.color)

    def _inertia_of_parts(self, materials: Mapping[str, Material]) -> Inertia | None:
        if not self.parts:
            return None
        densities = [self.density(part, materials) for part in self.parts]
        known = [found for found in densities if found is not None]
        if not known and self.weighed is not None:
            # Only proportions matter when the total is weighed: take one density throughout.
            known = [(1.0, "one density throughout")] * len(self.parts)
        if len(known) < len(self.parts):
            return None
        bodies = [_body(part, rho) for part, (rho, _) in zip(self.parts, known, strict=True)]
        names = ", ".join(dict.fromkeys(name for _, name in known))
        sources = "/".join(sorted({part.geometry.source for part in self.parts}))
        total = combined(bodies, "computed", f"{sources} volume x density of {names}")
        if self.weighed is None or total.mass <= 0:
            return total
        return total.scaled_to(self.weighed, f"weighed; distribution from {total.detail}")


def _body(part: Part, density: float) -> Inertia:
    solid = part.solid
    return Inertia(
        solid.volume * density, np.asarray(solid.centroid), solid.inertia * density, "computed"
    )
