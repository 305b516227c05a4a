"""Joints of several freedoms, written as one entry and made of simple joints."""

from __future__ import annotations

from typing import Any, Literal, NamedTuple

import numpy as np
from pydantic import Field, model_validator

from mooring.geometry import frame_along
from mooring.model.definition.described import Table, Value
from mooring.model.definition.fields import Direction
from mooring.model.definition.markers import EndLinkName
from mooring.model.placement import Placement, PlacementField

CompoundType = Literal["cylindrical", "universal", "spherical", "planar"]


class SimpleEntry(Value):
    """What may be said of one of the simple joints that a compound one is made of.

    Attributes:
        limits: as of a joint; a turning one without them turns without end.
        damping, friction: as of a joint.
    """

    limits: Table[str, Any] | None = None
    damping: float | str = 0.0
    friction: float | str = 0.0


class CompoundJoint(Value):
    """A joint of two or three freedoms.

    Attributes:
        type: cylindrical (slides along and turns about the axis), universal (turns about the axis,
            then about the second axis), spherical (turns by yaw about z, pitch about y, roll about
            x: together the fixed-axis roll, pitch and yaw of URDF) or planar (slides in the plane
            across the axis, and turns in it).
        parent, child: names of links.
        at: the joint's frame.
        axis: unit vector in the joint's frame; not for spherical.
        second_axis: for universal; across the axis.
        slide, turn: of cylindrical; turn also of planar.
        first, second: of universal.
        yaw, pitch, roll: of spherical.
        along_x, along_y: of planar.
    """

    type: CompoundType
    parent: EndLinkName
    child: EndLinkName
    at: PlacementField = Field(default_factory=Placement)
    axis: Direction = (0.0, 0.0, 1.0)
    second_axis: Direction | None = None
    slide: SimpleEntry | None = None
    turn: SimpleEntry | None = None
    first: SimpleEntry | None = None
    second: SimpleEntry | None = None
    yaw: SimpleEntry | None = None
    pitch: SimpleEntry | None = None
    roll: SimpleEntry | None = None
    along_x: SimpleEntry | None = None
    along_y: SimpleEntry | None = None

    @model_validator(mode="after")
    def _what_fits_the_type(self) -> CompoundJoint:
        own = _FREEDOMS[self.type]
        for name in _NAMES:
            if getattr(self, name) is not None and name not in own:
                raise ValueError(f"a {self.type} joint has no {name!r}; it has {', '.join(own)}")
        if (self.second_axis is not None) != (self.type == "universal"):
            raise ValueError("second_axis is for universal joints, and they need it")
        if self.second_axis is not None:
            cosine = abs(float(np.dot(self.axis, self.second_axis)))
            if cosine > 0.99:
                raise ValueError("the two axes of a universal joint must not be parallel")
        if self.type == "spherical" and self.axis != (0.0, 0.0, 1.0):
            raise ValueError("a spherical joint has no axis; turn its frame with at instead")
        return self


_FREEDOMS: dict[str, tuple[str, ...]] = {
    "cylindrical": ("slide", "turn"),
    "universal": ("first", "second"),
    "spherical": ("yaw", "pitch", "roll"),
    "planar": ("along_x", "along_y", "turn"),
}
_NAMES = tuple(dict.fromkeys(name for names in _FREEDOMS.values() for name in names))
COMPOUND_TYPES = tuple(_FREEDOMS)


class Freedom(NamedTuple):
    """One of the simple joints.

    Attributes:
        name: added to the compound joint's name.
        slides: whether it slides; otherwise it turns.
        axis: unit vector in the joint's frame.
        said: what was said of it.
    """

    name: str
    slides: bool
    axis: tuple[float, float, float]
    said: SimpleEntry


def freedoms(joint: CompoundJoint) -> list[Freedom]:
    """The simple joints that a compound one is made of, from the parent to the child."""
    along = tuple(float(v) for v in joint.axis)
    across = frame_along(np.array(joint.axis))
    axes: dict[str, tuple[float, ...]] = {
        "slide": along,
        "turn": along,
        "first": along,
        "second": joint.second_axis or along,
        "yaw": (0.0, 0.0, 1.0),
        "pitch": (0.0, 1.0, 0.0),
        "roll": (1.0, 0.0, 0.0),
        "along_x": tuple(float(v) for v in across[:, 0]),
        "along_y": tuple(float(v) for v in across[:, 1]),
    }
    return [
        Freedom(
            name,
            name in ("slide", "along_x", "along_y"),
            axes[name],  # type: ignore[arg-type]
            getattr(joint, name) or SimpleEntry(),
        )
        for name in _FREEDOMS[joint.type]
    ]
