"""What a field's type says about its values, besides what they are.

A marker stands in the `Annotated` type of a field. Whatever reads, writes, compares, renames, moves
or mirrors descriptions asks the markers, and lists no fields of its own.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal


@dataclass(frozen=True)
class Marker:
    """What all markers are."""


@dataclass(frozen=True)
class Ref(Marker):
    """The name of another item.

    Attributes:
        kinds: of what it may name; of several the first that has the name.
        may_dangle: whether it may name what is not there (yet); `check` tells.
        lost: what goes when the item it names is removed: all of the `"item"` that refers to it,
            or no more than the `"entry"` in which the name stands.
        moving: whether the joint it names must turn or slide.
        common: of names that need no item.
    """

    kinds: tuple[str, ...]
    may_dangle: bool = False
    lost: Literal["item", "entry"] = "item"
    moving: bool = False
    common: tuple[str, ...] = ()


@dataclass(frozen=True)
class Pattern(Marker):
    """A name pattern of items, as in the shell.

    Attributes:
        kind: of what.
    """

    kind: str


@dataclass(frozen=True)
class ItemPattern(Marker):
    """A pattern of paths to items, such as `joints.slew.*`."""


@dataclass(frozen=True)
class Coordinate(Marker):
    """The name of a joint, or of a coordinate of what floats, such as `crate.z`."""


@dataclass(frozen=True)
class Quantity(Marker):
    """A number with a unit.

    Attributes:
        dimension: its dimension.
    """

    dimension: str


@dataclass(frozen=True)
class JointQuantity(Marker):
    """A number whose dimension depends on whether the joint turns or slides.

    Attributes:
        name: position, velocity, effort, stiffness, damping or inertia.
    """

    name: str


@dataclass(frozen=True)
class Geometric(Marker):
    """Where something is, or which way it points.

    Attributes:
        what: a `"placement"`; or in the coordinates of the link a `"point"`, a `"direction"`, or
            `"moments"` of inertia.
    """

    what: Literal["placement", "point", "direction", "moments"]


LinkName = Annotated[str, Ref(("link",))]
EndLinkName = Annotated[str, Ref(("link",), may_dangle=True)]
"""Of a joint's end: its link may come later."""
JointName = Annotated[str, Ref(("joint",))]
MovingJointName = Annotated[str, Ref(("joint",), moving=True)]
PositionedJointName = Annotated[str, Ref(("joint",), moving=True, lost="entry")]
"""Of a joint in a posture: the posture does without it."""
FrameName = Annotated[str, Ref(("frame",))]
FrameOrLinkName = Annotated[str, Ref(("frame", "link"))]
DeviceName = Annotated[str, Ref(("device",))]
ConveyorName = Annotated[str, Ref(("conveyor",))]
GripName = Annotated[str, Ref(("grip",))]
NEUTRAL = "neutral"
"""The posture that every robot has: all joints at zero."""
PostureName = Annotated[str, Ref(("posture",), common=(NEUTRAL,))]
CoordinateName = Annotated[str, Coordinate()]
MotionName = Annotated[str, Ref(("motion",), lost="entry")]
