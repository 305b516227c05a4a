"""Places that are looked up in the CAD, by what is written of them."""

from __future__ import annotations

from mooring.cad import Assembly, Axis, Frame
from mooring.model.definition.described import Value
from mooring.model.definition.fields import Length, Lengths, Patterns


class BoreEntry(Value):
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


class SlideEntry(Value):
    """The direction in which faces of some parts slide along those of others.

    Attributes:
        slide: two name patterns.
    """

    slide: tuple[str, str]

    def found(self, assembly: Assembly) -> Axis:
        """The axis; raises ModelError where there is none."""
        return assembly.slide(*self.slide)


class FaceEntry(Value):
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


class CentreEntry(Value):
    """The centre of volume of some parts.

    Attributes:
        centre: name patterns.
    """

    centre: Patterns

    def found(self, assembly: Assembly) -> Frame:
        """The frame; raises ModelError where there are no such parts."""
        return assembly.centre(assembly.pick(*self.centre))


class FrameEntry(Value):
    """A named place that the CAD file holds.

    Attributes:
        frame: its name.
    """

    frame: str

    def found(self, assembly: Assembly) -> Frame:
        """The frame; raises ModelError where there is none."""
        return assembly.frame(self.frame)


FOUND_BY: dict[str, type[BoreEntry | SlideEntry | FaceEntry | CentreEntry | FrameEntry]] = {
    "bore": BoreEntry,
    "slide": SlideEntry,
    "face": FaceEntry,
    "centre": CentreEntry,
    "frame": FrameEntry,
}
"""By the key that tells them apart."""
