"""What stands in a document and is not already a definition of the model."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field, WithJsonSchema, model_validator

from mooring.model.fields import Color, Density, Described, Length, Lengths, Mass
from mooring.model.mass import PointMass
from mooring.model.placement import Placement, PlacementField


def _listed(value: Any) -> Any:
    return [value] if isinstance(value, str) else value


Patterns = Annotated[
    list[str],
    BeforeValidator(_listed),
    WithJsonSchema({"anyOf": [{"type": "string"}, {"type": "array", "items": {"type": "string"}}]}),
]


class SimplifyEntry(Described):
    """How far the triangles of CAD parts are reduced; one of the first two is needed.

    Attributes:
        tolerance: the largest distance from the surface as it was read [m].
        triangles: so many for all these parts together.
        parts: name patterns; all if not given.
    """

    tolerance: Length | None = Field(None, gt=0)
    triangles: int | None = Field(None, gt=0)
    parts: Patterns = Field(default_factory=list)


class CadEntry(Described):
    """A CAD file the robot is made from.

    Attributes:
        file: its path, from the document's folder.
        unit: for formats that have none, the length their number 1 stands for.
        tolerance: largest distance of triangles from curved surfaces [m].
        only: name patterns of the parts to take; all if not given.
        only_colors: colors of the parts to take, "#rrggbb".
        keep: name patterns of parts that nothing below drops or simplifies.
        split: names of parts to split into their bodies.
        join: parts to make one, by new name: a list of name patterns.
        repair: whether to turn triangles that face inwards.
        drop: name patterns of parts to leave out.
        drop_colors: colors of parts to leave out, "#rrggbb".
        smaller_than: parts whose longest side is less than this are left out [m].
        larger_than: parts whose longest side is more than this are left out [m].
        drop_hardware: whether to leave out what looks like screws, nuts and washers.
        drop_hidden: whether to leave out what nobody can see from outside.
        simplify: fewer triangles.
    """

    file: str
    unit: str | None = None
    tolerance: Length | None = Field(None, gt=0)
    only: Patterns = Field(default_factory=list)
    only_colors: Patterns = Field(default_factory=list)
    keep: Patterns = Field(default_factory=list)
    split: Patterns = Field(default_factory=list)
    join: dict[str, Patterns] = Field(default_factory=dict)
    repair: bool = False
    drop: Patterns = Field(default_factory=list)
    drop_colors: Patterns = Field(default_factory=list)
    smaller_than: Length | None = Field(None, gt=0)
    larger_than: Length | None = Field(None, gt=0)
    drop_hardware: bool = False
    drop_hidden: bool = False
    simplify: SimplifyEntry | None = None


class IncludeEntry(Described):
    """Another document whose robot becomes part of this one.

    Attributes:
        file: its path, from the document's folder.
        prefix: put before the names of its links, joints, closures, motors and frames.
        onto: the link it is fixed to.
        at: where its root's frame comes to be, on that link (or in the CAD).
        frame: instead of `onto` and `at`, the frame of this robot it is attached to.
        mount: the frame of the other that comes to lie on it; its only one of role mount if not
            given.
        mirror: x, y or z to include its mirror image across that axis of its root.
        values: to use instead of those in its `values:`.
        joint: name of the fixed joint; the prefix and `mount` if not given.
    """

    file: str
    prefix: str = ""
    onto: str | None = None
    at: PlacementField = Field(default_factory=Placement)
    frame: str | None = None
    mount: str | None = None
    mirror: Literal["x", "y", "z"] | None = None
    values: dict[str, float | str] = Field(default_factory=dict)
    joint: str | None = None


class LinkEntry(Described):
    """A link.

    Attributes:
        parts: name patterns of the CAD parts that move together as this link.
        material: of the parts; without it each keeps what its CAD file states.
        density: of the parts, instead of a material [kg/m^3].
        part_materials: materials of single parts, by name pattern; these come first.
        mass: as weighed [kg].
        points: masses added to the parts: mass and at, in link coordinates.
        assumed: whether the mass is nothing but a guess.
        centre: the centre of mass in link coordinates [m], where it is given and not computed.
        inertia: about the centre of mass: three principal moments, or ixx, iyy, izz, ixy, ixz, iyz.
        visuals: shapes and meshes to show besides the parts.
        carrier: whether it only connects the simple joints of a compound one, and needs no mass.
        surface: the material that it touches others with, where that is not `material`.
        collision: a rule (box, cylinder, capsule, sphere, hull, pieces, mesh, auto, none), a rule
            with its numbers, a shape, a mesh, or a list of such.
    """

    parts: Patterns = Field(default_factory=list)
    material: str | None = None
    density: Density | None = Field(None, gt=0)
    part_materials: dict[str, str] = Field(default_factory=dict)
    points: list[PointMass] = Field(default_factory=list)
    assumed: bool = False
    mass: Mass | None = Field(None, gt=0)
    centre: list[float | str] | None = None
    inertia: list[float | str] | None = None
    visuals: list[Any] = Field(default_factory=list)
    carrier: bool = False
    surface: str | None = None
    collision: Any = None


class BodyEntry(LinkEntry):
    """Something in a scene that stands or lies about.

    Attributes:
        at: where its frame is.
        box, sphere, cylinder, capsule: what it looks like and collides with, as one plain shape.
        color: "#rrggbb", of that shape.
        shapes: or several shapes and meshes, each with its place.
    """

    at: PlacementField = Field(default_factory=Placement)
    box: Any = None
    sphere: Any = None
    cylinder: Any = None
    capsule: Any = None
    color: Any = None
    shapes: list[Any] = Field(default_factory=list)


class SceneRobotEntry(Described):
    """A robot in a scene.

    Attributes:
        file: its document or URDF, from the scene's folder.
        at: where its root's frame is.
        base: fixed or floating; the robot's own if not given.
        prefix: put before its names; needed where two robots have the same.
        posture: in which it starts: a name, or positions by joint.
        values: to use instead of those in its `values:`.
    """

    file: str
    at: PlacementField = Field(default_factory=Placement)
    base: Literal["fixed", "floating"] | None = None
    prefix: str = ""
    posture: str | dict[str, float | str] | None = None
    values: dict[str, float | str] = Field(default_factory=dict)


class MeshEntry(Described):
    """A mesh from a file, all its parts as one; one of the first two is given.

    Attributes:
        mesh: its path, from the document's folder.
        hull: the same, for triangles that are a convex body.
        unit: for formats that have none, the length their number 1 stands for; metres if not given.
        at: where its origin is, on the link or in the CAD.
        name: what it is called.
        color: "#rrggbb", where it is shown.
    """

    mesh: str | None = None
    hull: str | None = None
    unit: str = "m"
    at: PlacementField = Field(default_factory=Placement)
    name: str = ""
    color: Color | None = None

    @model_validator(mode="after")
    def _just_one(self) -> MeshEntry:
        if (self.mesh is None) == (self.hull is None):
            raise ValueError("give one of mesh, hull")
        return self


class AllowanceEntry(Described):
    """Links that may overlap.

    Attributes:
        between: two name patterns of links.
        because: why, for those who read the findings.
    """

    between: tuple[str, str]
    because: str = ""


class FootprintEntry(Described):
    """A frame of a link where the machine stands: below the link's frame, level, on the lowest
    point of the whole machine.

    Attributes:
        link: the link it is fixed to.
        on_ground: true, or the posture in which it stands.
    """

    link: str
    on_ground: Literal[True] | str


class SlideEntry(Described):
    """The direction in which faces of some parts slide along those of others.

    Attributes:
        slide: two name patterns.
    """

    slide: tuple[str, str]


class FaceEntry(Described):
    """The centre and the normal of the outermost flat face of some parts in a direction.

    Attributes:
        face: name patterns.
        toward: which way the face looks: x, -z, or three numbers.
        near: to choose the one nearest to a point in CAD coordinates instead [m].
    """

    face: Patterns
    toward: str | list[float]
    near: Lengths | None = None


class CentreEntry(Described):
    """The centre of volume of some parts.

    Attributes:
        centre: name patterns.
    """

    centre: Patterns


class FrameEntry(Described):
    """A named place that the CAD file holds.

    Attributes:
        frame: its name.
    """

    frame: str


class BoreEntry(Described):
    """A place on the axis that a bore in one part shares with a bore or pin in another.

    Attributes:
        bore: two name patterns.
        radius: to choose among several [m].
        near: to choose the one nearest to a point in CAD coordinates [m].
    """

    bore: tuple[str, str]
    radius: Length | None = None
    near: Lengths | None = None
