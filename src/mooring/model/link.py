"""Links: the bodies of a robot."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import TYPE_CHECKING, Annotated, Any, Self

import numpy as np
from pydantic import BeforeValidator, Field, ValidationInfo, WithJsonSchema, model_validator

from mooring.cad import Part
from mooring.errors import ModelError, told
from mooring.geometry import Array
from mooring.model.collision import Collision, CollisionRule, Fit, chosen_parts, fit
from mooring.model.collision.definition import Line
from mooring.model.definition.described import Described, Table
from mooring.model.definition.fields import Density, Mass, Moments, Point
from mooring.model.definition.mirroring import moments_of, tensor_of
from mooring.model.definition.problems import EntryError
from mooring.model.inertia import Inertia
from mooring.model.mass import PointMass, link_inertia
from mooring.model.material import Material, MaterialName
from mooring.model.placement import Placement
from mooring.model.shapes import MeshShape, PlacedShape
from mooring.model.shapes.as_parts import as_parts
from mooring.model.shapes.placed import BESIDE, SHAPES, bare, read_shape
from mooring.model.vendor import VendorParts

if TYPE_CHECKING:
    from mooring.model.robot import Robot


def _parts(value: Any, info: ValidationInfo) -> Any:
    """Parts as they are, or the name patterns of parts of the context's CAD."""
    if not isinstance(value, str | Iterable):
        raise ValueError(f"expected parts, or patterns of their names, got {told(value)}")
    patterns = (value,) if isinstance(value, str) else tuple(value)
    if not any(isinstance(item, str) for item in patterns):
        if any(not isinstance(item, Part) for item in patterns):
            raise ValueError(
                "parts are named by text; a name that begins with = is written [=], so that it is "
                "no expression"
            )
        return patterns
    if info.context is None:
        raise ValueError("parts by name need a CAD file; give the parts themselves")
    return info.context.parts(patterns)


_PATTERNS = WithJsonSchema(
    {"anyOf": [{"type": "string"}, {"type": "array", "items": {"type": "string"}}]}
)
Parts = Annotated[tuple[Part, ...], BeforeValidator(_parts), _PATTERNS]
"""Parts; a document gives the name patterns of those it takes from its CAD."""


def _shapes(value: Any, info: ValidationInfo) -> Any:
    if isinstance(value, Mapping | PlacedShape | str) or not isinstance(value, Iterable):
        raise ValueError("expected a list of shapes, such as [{box: [1, 1, 1]}]")
    shapes = []
    for number, item in enumerate(value):
        try:
            shapes.append(read_shape(item, info))
        except EntryError as error:
            raise error.inside(number) from None
    return tuple(shapes)


Shapes = Annotated[
    tuple[PlacedShape, ...],
    BeforeValidator(_shapes),
    WithJsonSchema({"type": "array", "items": {"$comment": "a shape"}}),
]


class Link(Described):
    """One rigid body.

    Attributes:
        name: unique among the robot's links.
        parts: the CAD parts that move together as this link; by name patterns in a document.
        shapes: what it is made of instead: plain shapes or meshes, which are seen, touched and
            weighed. A single one may stand on the link itself: box, sphere, cylinder or capsule,
            with at and color.
        material: of its parts; without it each keeps what its CAD file states.
        density: of its parts, instead of a material [kg/m^3].
        part_materials: materials of single parts, by name pattern; these come first.
        mass: as weighed, which is spread over what the link is made of, or shows; or given with
            an inertia [kg].
        points: masses added to its parts: mass and at, in link coordinates.
        assumed: whether its mass is nothing but a guess.
        centre: the centre of mass in link coordinates [m], where it is given and not computed.
        inertia: about the centre of mass: three principal moments, or ixx, iyy, izz, ixy, ixz, iyz.
        visuals: shapes and meshes to show besides the parts, and instead of `shapes`.
        carrier: whether it only connects the simple joints of a compound one, and needs no mass.
        surface: the material that it touches others with, where that is not `material`.
        collision: a rule (box, cylinder, capsule, sphere, hull, pieces, mesh, auto, none), a rule
            with its numbers, a shape, a mesh, or a list of such; where nothing is said, `shapes`.
        cad_frame: the link's frame in the coordinates of the CAD that its parts come from, (4, 4),
            for a link that came with another robot; None where that is this robot's own CAD.
        included_as: which inclusion it came with; links of different inclusions share parts.
        vendor: what other programs have written into it, which is kept and written back.
    """

    name: str = Field(exclude=True)
    parts: Parts = ()
    shapes: Shapes = ()
    material: MaterialName | None = None
    density: Density | None = Field(default=None, gt=0)
    part_materials: Table[str, MaterialName] = Field(default_factory=dict)
    points: tuple[PointMass, ...] = ()
    assumed: bool = False
    mass: Mass | None = Field(default=None, gt=0)
    centre: Point | None = None
    inertia: Moments | None = None
    visuals: Shapes = ()
    carrier: bool = False
    surface: MaterialName | None = None
    collision: Collision | None = None
    cad_frame: Any = Field(default=None, exclude=True)
    included_as: str = Field(default="", exclude=True)
    vendor: VendorParts = ()

    @model_validator(mode="before")
    @classmethod
    def _a_shape_may_stand_on_the_link_itself(cls, value: Any) -> Any:
        if not isinstance(value, Mapping) or not any(kind in value for kind in SHAPES):
            return value
        link = dict(value)
        single = {k: link.pop(k) for k in (*SHAPES, *BESIDE) if k in link and k != "name"}
        return link | {"shapes": [single, *link.get("shapes", ())]}

    @model_validator(mode="after")
    def _what_is_said_of_its_mass_belongs_together(self) -> Link:
        if self.material is not None and self.density is not None:
            raise EntryError("link", [(("density",), "give either a material or a density")])
        if self.inertia is not None and self.mass is None:
            raise EntryError("link", [(("inertia",), "an inertia needs a mass beside it")])
        if self.centre is not None and self.inertia is None:
            text = "a centre of mass needs an inertia beside it"
            raise EntryError("link", [(("centre",), text)])
        if self.parts and self.shapes:
            text = "a link is made of parts or of shapes; show others as visuals"
            raise EntryError("link", [(("shapes",), text)])
        for number, rule in enumerate(self.collision or ()):
            if not isinstance(rule, CollisionRule):
                continue
            try:
                chosen_parts(rule, self.parts or as_parts(self.shapes or self.visuals))
            except ModelError as error:
                raise EntryError("link", [(("collision", number), str(error))]) from None
        return self

    # Mass.

    @property
    def weighed(self) -> float | None:
        """The mass that scales what the geometry gives [kg]; None where there is none."""
        return self.mass if self.inertia is None else None

    @property
    def says_its_mass(self) -> bool:
        """Whether what it weighs, or is made of, is said; shapes alone may be mere pictures."""
        said = (self.mass, self.material, self.density, self.part_materials or None)
        return any(one is not None for one in said)

    @property
    def given_inertia(self) -> Inertia | None:
        """Mass properties given in full, in link coordinates; None where they are not."""
        if self.inertia is None or self.mass is None:
            return None
        centre = np.array(self.centre or (0.0, 0.0, 0.0))
        return Inertia(self.mass, centre, tensor_of(self.inertia), "given", "given in full")

    def mass_properties(
        self, link_frame: Array, materials: Mapping[str, Material]
    ) -> Inertia | None:
        """Mass properties in link coordinates; None where something needed is not known.

        Args:
            link_frame: the link's frame in CAD coordinates, (4, 4).
            materials: the robot's own materials; the built-in table comes after them.
        """
        return link_inertia(self, link_frame, materials)

    # Shapes.

    def made_of(self, link_frame: Array | None = None) -> tuple[Part, ...]:
        """What collision shapes are fitted around: its parts, or else its shapes, or visuals.

        Parts are placed in CAD coordinates, all others in those of the link.

        Args:
            link_frame: the link's frame in CAD coordinates, (4, 4); the robot's if not given.
        """
        return self.parts or self._as_parts(self.shapes or self.visuals, link_frame)

    def weighed_by(self, link_frame: Array) -> tuple[Part, ...]:
        """What a mass is computed from: the same, or else the shapes it collides with."""
        bodies = self.made_of(link_frame)
        if sum(body.volume for body in bodies) > 0 or not self.given_collisions:
            return bodies
        return self._as_parts(self.given_collisions, link_frame)

    def home(self, link_frame: Array) -> Array:
        """The link's frame where these are placed, (4, 4)."""
        if not self.parts:
            return np.eye(4)
        return link_frame if self.cad_frame is None else np.asarray(self.cad_frame)

    def _as_parts(
        self, shapes: tuple[PlacedShape, ...], link_frame: Array | None
    ) -> tuple[Part, ...]:
        if link_frame is None and any(one.placement.relative_to == "cad" for one in shapes):
            link_frame = self._own_frame()
        return as_parts(shapes, link_frame)

    def _own_frame(self) -> Array:
        robot = self.owner
        if robot is None:
            raise ModelError(f"link {self.name!r}: its place in the CAD needs its robot")
        frame: Array = robot.link_frames()[self.name]
        return frame

    @property
    def collision_rules(self) -> tuple[CollisionRule, ...]:
        """The rules by which shapes are fitted around its parts."""
        return tuple(one for one in self.collision or () if isinstance(one, CollisionRule))

    @property
    def given_collisions(self) -> tuple[PlacedShape, ...]:
        """The shapes it collides with besides those that are fitted."""
        if self.collision is None:
            return tuple(bare(one) for one in self.shapes)
        return tuple(one for one in self.collision if isinstance(one, PlacedShape))

    @property
    def collision_fits(self) -> list[Fit]:
        """What its rules came to, one each."""
        if not self.collision_rules:
            return []
        bodies = self.made_of()
        return [
            fit(rule, bodies, None if rule.about is None else self._axis())
            for rule in self.collision_rules
        ]

    def _axis(self) -> Line:
        """The axis of the joint that moves it, where its parts are.

        Raises:
            ModelError: no joint turns or slides it.
        """
        robot = self.owner
        joints = [] if robot is None else [j for j in robot.joints.values() if j.child == self.name]
        if len(joints) != 1 or not joints[0].has_axis:
            raise ModelError(
                f"link {self.name!r}: collision about: joint needs a joint that turns or slides it"
            )
        frame = self.home(self._own_frame())
        x, y, z = (float(v) for v in frame[:3, 3])
        u, v, w = (float(c) for c in frame[:3, :3] @ np.array(joints[0].axis))
        return (x, y, z), (u, v, w)

    @property
    def collisions(self) -> list[PlacedShape]:
        """The shapes it collides with; fitted when first asked for, which takes a moment."""
        fitted = [shape for found in self.collision_fits for shape in found.shapes]
        return [*self.given_collisions, *(self._at_home(shape) for shape in fitted)]

    def shown(self, materials: Mapping[str, Material]) -> list[PlacedShape]:
        """Everything that is drawn: the parts, then the visuals, or else its shapes.

        Args:
            materials: the robot's own materials.
        """
        material = materials.get(self.material or "")
        fallback = None if material is None else material.color
        parts = [
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
        own = [one if one.color else replace(one, color=fallback) for one in self.shapes]
        return [*parts, *(self.visuals or own)]

    def _at_home(self, shape: PlacedShape) -> PlacedShape:
        """A shape found where parts are placed; on the link, where those are of another CAD."""
        if not self.parts:
            return shape.on(np.eye(4))
        return shape if self.cad_frame is None else shape.on(self.cad_frame)

    # What has a meaning of its own.

    def placed_on(self) -> str:
        return self.name

    def mirrored(self, mirror: Array) -> Self:
        assert self.cad_frame is not None
        image = super().mirrored(mirror)
        axis = "xyz"[int(np.argmin(np.diag(mirror)[:3]))]
        parts = tuple(
            replace(
                old,
                placement=mirror @ old.placement @ mirror,
                geometry=old.geometry.mirrored(axis),
            )
            for old in self.parts
        )
        return image.model_copy(
            update={
                "parts": parts,
                "cad_frame": mirror @ self.cad_frame @ mirror,
            }
        )

    def resolved(self, robot: Robot) -> Self:
        frame = robot.link_frames()[self.name]
        found = robot.inertia(self.name)
        touches = self.surface or self.material
        shapes = tuple(shape.on(frame) for shape in self.collisions)
        update: dict[str, Any] = {
            "parts": (), "shapes": (), "points": (),
            "surface": touches if touches in robot.materials else None,
            "visuals": tuple(shape.on(frame) for shape in self.shown(robot.materials)),
            "collision": None if self.collision is None and not self.shapes else shapes,
            "mass": None, "centre": None, "inertia": None,
        }  # fmt: skip
        if found is not None:
            centre = tuple(float(v) for v in found.centre)
            update |= {
                "mass": float(found.mass), "centre": centre, "inertia": moments_of(found.tensor),
                "assumed": found.source == "assumed",
            }  # fmt: skip
        return self.model_copy(update=update)
