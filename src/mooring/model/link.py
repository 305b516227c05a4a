"""Links: the bodies of a robot."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from mooring.cad import Part
from mooring.geometry import Array
from mooring.model.collision import CollisionRule, Fit, fit
from mooring.model.inertia import Inertia
from mooring.model.mass import PointMass, link_inertia
from mooring.model.material import Material
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
        density: of its parts, instead of a material [kg/m^3].
        part_materials: materials of single parts, as name patterns and materials; these come first.
        weighed: the mass it was weighed at [kg]; scales what the geometry gives.
        given_inertia: mass properties given in full, in link coordinates; wins over the parts.
        points: masses added to its parts.
        assumed: whether its mass is nothing but a guess.
        extra_visuals: shapes to draw besides the parts.
        collision_rules: by which shapes are fitted around its parts; None where nothing was said.
        given_collisions: shapes it collides with besides those.
        cad_frame: the link's frame in the coordinates of the CAD that its parts come from, (4, 4),
            for a link that came with another robot; None where that is this robot's own CAD.
        carrier: whether it only connects the simple joints of a compound one; it has no mass.
        surface: the material that it touches others with, where that is not `material`.
        included_as: which inclusion it came with; links of different inclusions share parts.
    """

    name: str
    parts: tuple[Part, ...] = ()
    material: str | None = None
    density: float | None = None
    part_materials: tuple[tuple[str, str], ...] = ()
    weighed: float | None = None
    given_inertia: Inertia | None = None
    points: tuple[PointMass, ...] = ()
    assumed: bool = False
    extra_visuals: list[PlacedShape] = field(default_factory=list)
    collision_rules: tuple[CollisionRule, ...] | None = None
    given_collisions: list[PlacedShape] = field(default_factory=list)
    cad_frame: Array | None = None
    carrier: bool = False
    surface: str | None = None
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
        return link_inertia(self, link_frame, materials)

    def _at_home(self, shape: PlacedShape) -> PlacedShape:
        """A shape found in CAD coordinates; on the link, where those are of another CAD."""
        if self.cad_frame is None:
            return shape
        place = Placement(shape.placement.in_link(self.cad_frame))
        return PlacedShape(shape.shape, place, shape.name, shape.color)
