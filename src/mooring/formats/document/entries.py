"""What stands in a document and is not already a definition of the model."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field, model_validator

from mooring.model.definition.described import Table, Value
from mooring.model.definition.fields import Angle, Direction, Length, Lengths, Patterns
from mooring.model.definition.markers import FrameName, LinkName, Pattern, PostureName
from mooring.model.placement import Placement, PlacementField
from mooring.model.shapes.placed import Beside


def _file_name(value: Any) -> Any:
    if isinstance(value, str) and "\0" in value:
        raise ValueError("a file's name has no character of the code 0 in it")
    return value


FileName = Annotated[str, BeforeValidator(_file_name)]


class SimplifyEntry(Value):
    """How far the triangles of CAD parts are reduced; one of the first two is needed.

    Attributes:
        tolerance: the largest distance from the surface as it was read [m].
        triangles: so many for all these parts together.
        parts: name patterns; all if not given.
    """

    tolerance: Length | None = Field(None, gt=0)
    triangles: int | None = Field(None, gt=0)
    parts: Patterns = ()


class PlaneCutEntry(Value):
    """A plane; either through a point, or along a flat face.

    Attributes:
        through: a point on it, in CAD coordinates [m].
        normal: x, y, z or three numbers.
        face: name patterns of parts; their outermost flat face in a direction.
        toward: which way that face looks.
        near: the face nearest to a point in CAD coordinates instead [m].
    """

    through: Lengths | None = None
    normal: Direction | None = None
    face: Patterns = ()
    toward: Direction | None = None
    near: Lengths | None = None

    @model_validator(mode="after")
    def _one_of_both(self) -> PlaneCutEntry:
        point = self.through is not None and self.normal is not None
        if point == (bool(self.face) and self.toward is not None):
            raise ValueError("give through and normal, or face and toward")
        return self


class CylinderCutEntry(Value):
    """A cylinder, in CAD coordinates.

    Attributes:
        start: the centre of one end [m].
        end: the centre of the other [m].
        radius: [m].
    """

    start: Lengths
    end: Lengths
    radius: Length = Field(gt=0)


class CutEntry(Value):
    """Where a fused body is cut; one of these.

    Attributes:
        plane: along a plane.
        box: what is between two corners, from the rest, in CAD coordinates [m].
        cylinder: what is in a cylinder, from the rest.
        neck: at the narrowest place near a point in CAD coordinates, or `narrowest` of all.
        creases: where the surface bends inwards by more than an angle, all round [rad].
    """

    plane: PlaneCutEntry | None = None
    box: tuple[Lengths, Lengths] | None = None
    cylinder: CylinderCutEntry | None = None
    neck: Literal["narrowest"] | Lengths | None = None
    creases: Angle | None = Field(None, gt=0)

    @model_validator(mode="after")
    def _just_one(self) -> CutEntry:
        if sum(getattr(self, name) is not None for name in type(self).model_fields) != 1:
            raise ValueError(f"give one of {', '.join(type(self).model_fields)}")
        return self


class CadEntry(Value):
    """A CAD file the robot is made from.

    Attributes:
        file: its path, from the document's folder; or a folder of mesh files, or a pattern such as
            `parts/*.stl`.
        unit: for mesh files, the length their number 1 stands for.
        tolerance: largest distance of triangles from curved surfaces [m].
        only: name patterns of the parts to take; all if not given.
        only_colors: colors of the parts to take, "#rrggbb".
        keep: name patterns of parts that nothing below drops or simplifies.
        split: names of parts to split into their bodies.
        cut: cuts through a fused body, by the part's name.
        join: parts to make one, by new name: a list of name patterns.
        rename: new names of parts, by their names so far.
        repair: whether to turn triangles that face inwards.
        drop: name patterns of parts to leave out.
        drop_colors: colors of parts to leave out, "#rrggbb".
        smaller_than: parts whose longest side is less than this are left out [m].
        larger_than: parts whose longest side is more than this are left out [m].
        drop_hardware: whether to leave out what looks like screws, nuts and washers.
        drop_hidden: whether to leave out what nobody can see from outside.
        simplify: fewer triangles.
    """

    file: FileName
    unit: str | None = None
    tolerance: Length | None = Field(None, gt=0)
    only: Patterns = ()
    only_colors: Patterns = ()
    keep: Patterns = ()
    split: Patterns = ()
    cut: Table[str, tuple[CutEntry, ...]] = Field(default_factory=dict)
    join: Table[str, Patterns] = Field(default_factory=dict)
    rename: Table[str, str] = Field(default_factory=dict)
    repair: bool = False
    drop: Patterns = ()
    drop_colors: Patterns = ()
    smaller_than: Length | None = Field(None, gt=0)
    larger_than: Length | None = Field(None, gt=0)
    drop_hardware: bool = False
    drop_hidden: bool = False
    simplify: SimplifyEntry | None = None


class IncludeEntry(Value):
    """Another document, or URDF file, whose robot becomes part of this one.

    Attributes:
        file: its path, from the document's folder.
        override: of its items what is to be otherwise, such as
            `{joints: {luff: {limits: {upper: 80 deg}}}}`; names may be patterns, and null takes an
            item away.
        search: for URDF: folders to look for meshes in, from the document's folder.
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

    file: FileName
    prefix: str = ""
    onto: LinkName | None = None
    at: PlacementField = Field(default_factory=Placement)
    frame: FrameName | None = None
    mount: str | None = None
    mirror: Literal["x", "y", "z"] | None = None
    values: Table[str, float | str] = Field(default_factory=dict)
    joint: str | None = None
    override: Table[str, Any] = Field(default_factory=dict)
    search: Patterns = ()


class SceneRobotEntry(Value):
    """A robot in a scene.

    Attributes:
        file: its document or URDF, from the scene's folder.
        at: where its root's frame is.
        base: fixed or floating; the robot's own if not given.
        prefix: put before its names; needed where two robots have the same.
        posture: in which it starts: a name, or positions by joint.
        values: to use instead of those in its `values:`.
        override: as for an inclusion: of its items what is to be otherwise.
        search: for URDF: folders to look for meshes in, from the scene's folder.
    """

    file: FileName
    at: PlacementField = Field(default_factory=Placement)
    base: Literal["fixed", "floating"] | None = None
    prefix: str = ""
    posture: str | Table[str, float | str] | None = None
    values: Table[str, float | str] = Field(default_factory=dict)
    override: Table[str, Any] = Field(default_factory=dict)
    search: Patterns = ()


class MeshEntry(Beside):
    """A mesh from a file, all its parts as one; one of the first two is given.

    Attributes:
        mesh: its path, from the document's folder.
        hull: the same, for triangles that are a convex body.
        unit: the length its number 1 stands for; if not given, what the file says, or metres.
        scale: what its coordinates are multiplied by along x, y and z; less than zero mirrors.
        at: where its origin is, on the link or in the CAD.
        name: what it is called.
        color: "#rrggbb", where it is shown.
        opacity: from 0, not to be seen, to 1.
        finish: what its color is called.
        texture: the file of a picture on it, which is kept and not drawn.
        vendor: what other programs have written into it, which is kept and written back.
    """

    mesh: FileName | None = None
    hull: FileName | None = None
    unit: str | None = None
    scale: tuple[float, float, float] | None = None

    @model_validator(mode="after")
    def _just_one(self) -> MeshEntry:
        if (self.mesh is None) == (self.hull is None):
            raise ValueError("give one of mesh, hull")
        return self


LinkPattern = Annotated[str, Pattern("link")]


class AllowanceEntry(Value):
    """Links that may overlap.

    Attributes:
        between: two name patterns of links.
        because: why, for those who read the findings.
    """

    between: tuple[LinkPattern, LinkPattern]
    because: str = ""


class FootprintEntry(Value):
    """A frame of a link where the machine stands: below the link's frame, level, on the lowest
    point of the whole machine.

    Attributes:
        link: the link it is fixed to.
        on_ground: true, or the posture in which it stands.
    """

    link: LinkName
    on_ground: Literal[True] | PostureName
