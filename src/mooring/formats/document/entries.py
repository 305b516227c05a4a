"""What stands in a document and is not already a definition of the model."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from mooring.model.definition.described import Table, Value
from mooring.model.definition.fields import Color, Length, Patterns
from mooring.model.definition.markers import FrameName, LinkName, Pattern, PostureName
from mooring.model.placement import Placement, PlacementField


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


class CadEntry(Value):
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
    only: Patterns = ()
    only_colors: Patterns = ()
    keep: Patterns = ()
    split: Patterns = ()
    join: Table[str, Patterns] = Field(default_factory=dict)
    repair: bool = False
    drop: Patterns = ()
    drop_colors: Patterns = ()
    smaller_than: Length | None = Field(None, gt=0)
    larger_than: Length | None = Field(None, gt=0)
    drop_hardware: bool = False
    drop_hidden: bool = False
    simplify: SimplifyEntry | None = None


class IncludeEntry(Value):
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
    onto: LinkName | None = None
    at: PlacementField = Field(default_factory=Placement)
    frame: FrameName | None = None
    mount: str | None = None
    mirror: Literal["x", "y", "z"] | None = None
    values: Table[str, float | str] = Field(default_factory=dict)
    joint: str | None = None


class SceneRobotEntry(Value):
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
    posture: str | Table[str, float | str] | None = None
    values: Table[str, float | str] = Field(default_factory=dict)


class MeshEntry(Value):
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
