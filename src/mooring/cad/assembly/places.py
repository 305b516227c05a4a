"""Finding places in an assembly's geometry, and which of its parts touch."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

import numpy as np

from mooring.arguments import proven_methods
from mooring.cad.assembly.contents import Contents
from mooring.cad.part import Part
from mooring.cad.places.axis import Axis, direction_of
from mooring.cad.places.bores import own_axis, shared_axis
from mooring.cad.places.edges import straight_edge
from mooring.cad.places.flats import flat_face
from mooring.cad.places.frame import Frame
from mooring.cad.solid import sum_of_solids
from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array, placement
from mooring.units import to_si

if TYPE_CHECKING:
    from mooring.cad.touching import Contact


@proven_methods
class Places(Contents):
    """Places to put joints and frames on; see `Assembly`."""

    def bore(
        self,
        first: str | Part | Sequence[Part],
        second: str | Part | Sequence[Part],
        *,
        radius: float | str | None = None,
        near: Iterable[float | str] | None = None,
    ) -> Axis:
        """The axis shared by a bore in one part and a bore or pin in another.

        Where none is of the other's radius, any two round faces on one axis will do.

        Args:
            first, second: a name or pattern, a part, or several parts.
            radius: to choose among several, e.g. `"30 mm"`.
            near: to choose the one nearest to a point, e.g. `("0.9 m", 0, "2.1 m")`.

        Raises:
            ModelError: none is shared, or several are and nothing chooses; the message lists them.

        Example:
            `assembly.bore("column", "turntable")`
        """
        return shared_axis(
            self._group(first),
            self._group(second),
            None if radius is None else to_si(radius, "length"),
            _point(near),
        )

    def axis(
        self,
        part: str | Part | Sequence[Part],
        *,
        radius: float | str | None = None,
        near: Iterable[float | str] | None = None,
    ) -> Axis:
        """The axis of the round faces of a part.

        Args:
            part: a name or pattern, a part, or several parts.
            radius, near: to choose among several, as for `bore`.

        Raises:
            ModelError: it has no round face, or several axes and nothing chooses.

        Example:
            `assembly.axis("rotor")`, `assembly.axis("flange", radius="3 mm", near=(0, 0, 0))`
        """
        return own_axis(
            self._group(part), None if radius is None else to_si(radius, "length"), _point(near)
        )

    def edge(self, part: str | Part | Sequence[Part], near: Iterable[float | str]) -> Axis:
        """The straight edge, between two flat faces, that is nearest to a point.

        Args:
            part: a name or pattern, a part, or several parts.
            near: the point, e.g. `("0.9 m", 0, "2.1 m")`.

        Raises:
            ModelError: there is no such edge.
        """
        point = np.array([to_si(value, "length") for value in near])
        return straight_edge(self._group(part), point)

    def slide(
        self,
        first: str | Part | Sequence[Part],
        second: str | Part | Sequence[Part],
        *,
        tolerance: float | str = "0.5 mm",
    ) -> Axis:
        """The direction in which faces of two parts slide along each other.

        Args:
            first, second: a name or pattern, a part, or several parts.
            tolerance: how far apart faces may be and still touch.

        Raises:
            ModelError: no faces touch, or they leave more or less than one way to slide.

        Example:
            `assembly.slide("*_wear_pad_*", "jib_tube")`
        """
        from mooring.cad.places.slides import shared_slide

        near = to_si(tolerance, "length")
        return shared_slide(self._group(first), self._group(second), near)

    def face(
        self,
        part: str | Part | Sequence[Part],
        toward: str | Sequence[float],
        *,
        near: Iterable[float | str] | None = None,
    ) -> Axis:
        """The outermost flat face in a direction: its centre, and the normal out of it.

        Args:
            part: a name or pattern, a part, or several parts.
            toward: which way the face looks: `"x"`, `"-z"`, or three numbers.
            near: take the face nearest to a point instead of the outermost.

        Raises:
            ModelError: no flat face looks that way.

        Example:
            `assembly.face("column", "z")`
        """
        return flat_face(self._group(part), direction_of(toward), _point(near))

    def centre(self, part: str | Part | Sequence[Part]) -> Frame:
        """The centre of volume of some parts, with axes parallel to the CAD's.

        Args:
            part: a name or pattern, a part, or several parts.

        Raises:
            ModelError: a pattern matches nothing.
        """
        parts = self._group(part)
        centre = sum_of_solids([p.solid for p in parts]).centroid
        return Frame(placement(centre), f"centre of {' + '.join(p.name for p in parts[:3])}")

    def frame(self, name: str) -> Frame:
        """A named place that the file holds.

        Raises:
            ModelError: the file holds none of that name.
        """
        if name not in self.frames:
            hint = did_you_mean(name, list(self.frames))
            raise ModelError(f"no frame of {self.file.name} is called {name!r}{hint}")
        return self.frames[name]

    def touching(self, tolerance: float | str = "0.5 mm") -> list[Contact]:
        """The pairs of parts that touch or overlap within a tolerance.

        Round faces are triangles here: a tolerance finer than theirs misses pins in their bores.
        """
        from mooring.cad.touching import contacts_of

        return contacts_of(self.parts, to_si(tolerance, "length"))

    def groups(self, tolerance: float | str = "0.5 mm") -> list[list[str]]:
        """The names of parts that hang together by touching, largest groups first.

        A group of one is a part that touches nothing.
        """
        from mooring.cad.touching import groups_of

        return groups_of(self.parts, self.touching(tolerance))


def _point(near: Iterable[float | str] | None) -> Array | None:
    return None if near is None else np.array([to_si(value, "length") for value in near])
