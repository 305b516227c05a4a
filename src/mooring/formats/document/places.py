"""Places that are looked up in the CAD, by what is written of them."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import WithJsonSchema

from mooring.cad import Assembly, Axis, Frame
from mooring.model.definition.described import Value
from mooring.model.definition.fields import Angles, Length, Lengths, Patterns

XDirection = Annotated[
    Any,
    WithJsonSchema(
        {
            "anyOf": [
                {"type": "array", "minItems": 3, "maxItems": 3},
                {"type": "string"},
                {"$comment": "a place"},
            ]
        }
    ),
]


class FoundEntry(Value):
    """What may be said of every place that is found.

    Attributes:
        rpy: by which the frame there is turned in its own axes, fixed-axis roll, pitch, yaw [rad].
    """

    rpy: Angles = (0.0, 0.0, 0.0)


class AxisEntry(FoundEntry):
    """What may be said of every axis that is found.

    Attributes:
        x: where the x axis of a frame there points, z being along the axis: x, -y, three numbers;
            the way a face looks, along an edge, or toward any other place that is found.
    """

    x: XDirection = None


class BoreEntry(AxisEntry):
    """A place on the axis that a bore in one part shares with a bore or pin in another.

    Attributes:
        bore: two name patterns.
        radius: to choose among several [m].
        near: to choose the one nearest to a point in CAD coordinates [m].
    """

    bore: tuple[str, str]
    radius: Length | None = None
    near: Lengths | None = None

    def found(self, assembly: Assembly) -> Axis:
        """The axis; raises ModelError where there is none."""
        return assembly.bore(*self.bore, radius=self.radius, near=self.near)


class RoundEntry(AxisEntry):
    """The axis of the round faces of some parts.

    Attributes:
        axis: name patterns.
        radius: to choose among several [m].
        near: to choose the one nearest to a point in CAD coordinates [m].
    """

    axis: Patterns
    radius: Length | None = None
    near: Lengths | None = None

    def found(self, assembly: Assembly) -> Axis:
        """The axis; raises ModelError where there is none."""
        return assembly.axis(assembly.pick(*self.axis), radius=self.radius, near=self.near)


class EdgeEntry(AxisEntry):
    """The straight edge nearest to a point.

    Attributes:
        edge: name patterns.
        near: the point, in CAD coordinates [m].
    """

    edge: Patterns
    near: Lengths

    def found(self, assembly: Assembly) -> Axis:
        """The axis along it; raises ModelError where there is none."""
        return assembly.edge(assembly.pick(*self.edge), self.near)


class SlideEntry(AxisEntry):
    """The direction in which faces of some parts slide along those of others.

    Attributes:
        slide: two name patterns.
    """

    slide: tuple[str, str]

    def found(self, assembly: Assembly) -> Axis:
        """The axis; raises ModelError where there is none."""
        return assembly.slide(*self.slide)


class FaceEntry(AxisEntry):
    """The centre and the normal of the outermost flat face of some parts in a direction.

    Attributes:
        face: name patterns.
        toward: which way the face looks: x, -z, or three numbers.
        near: to choose the one nearest to a point in CAD coordinates instead [m].
    """

    face: Patterns
    toward: str | list[float]
    near: Lengths | None = None

    def found(self, assembly: Assembly) -> Axis:
        """The axis; raises ModelError where there is none."""
        return assembly.face(assembly.pick(*self.face), self.toward, near=self.near)


class CentreEntry(FoundEntry):
    """The centre of volume of some parts.

    Attributes:
        centre: name patterns.
    """

    centre: Patterns

    def found(self, assembly: Assembly) -> Frame:
        """The frame; raises ModelError where there are no such parts."""
        return assembly.centre(assembly.pick(*self.centre))


class FrameEntry(FoundEntry):
    """A named place that the CAD file holds.

    Attributes:
        frame: its name.
    """

    frame: str

    def found(self, assembly: Assembly) -> Frame:
        """The frame; raises ModelError where there is none."""
        return assembly.frame(self.frame)


Place = BoreEntry | RoundEntry | EdgeEntry | SlideEntry | FaceEntry | CentreEntry | FrameEntry
FOUND_BY: dict[str, type[Place]] = {
    "bore": BoreEntry,
    "axis": RoundEntry,
    "edge": EdgeEntry,
    "slide": SlideEntry,
    "face": FaceEntry,
    "centre": CentreEntry,
    "frame": FrameEntry,
}
"""By the key that tells them apart."""
