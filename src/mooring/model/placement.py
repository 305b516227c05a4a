"""Where a thing sits: a rigid placement, and what it is measured from."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BeforeValidator, ValidationInfo, WithJsonSchema

from mooring.brief import Brief
from mooring.cad import Axis, Frame
from mooring.geometry import Array, inverse, placement, rotation_from_rpy
from mooring.model.definition.described import Value
from mooring.model.definition.fields import Angles, Lengths, read_direction
from mooring.model.definition.markers import Geometric
from mooring.model.definition.problems import EntryError

Reference = Literal["link", "cad"]


class PlacementEntry(Value):
    """A placement as it is written.

    Attributes:
        xyz: position [m].
        rpy: fixed-axis roll, pitch, yaw [rad].
        relative_to: `"link"`, the link it is attached to (for a joint, its parent link), or
            `"cad"`, the coordinates of the CAD file.
    """

    xyz: Lengths = (0.0, 0.0, 0.0)
    rpy: Angles = (0.0, 0.0, 0.0)
    relative_to: Reference = "link"


@dataclass(frozen=True, eq=False, repr=False)
class Placement(Brief):
    """A rigid placement.

    Attributes:
        matrix: (4, 4) [m].
        relative_to: see `PlacementEntry`.
    """

    matrix: Array = field(default_factory=lambda: np.eye(4))
    relative_to: Reference = "link"

    def __post_init__(self) -> None:
        # A copy that cannot be written into: what is made of it would not know.
        matrix = np.array(self.matrix, dtype=float)
        matrix.setflags(write=False)
        object.__setattr__(self, "matrix", matrix)

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Placement):
            return NotImplemented
        return self.relative_to == other.relative_to and np.array_equal(self.matrix, other.matrix)

    def __hash__(self) -> int:
        return hash((self.matrix.tobytes(), self.relative_to))

    def in_link(self, link_frame: Array) -> Array:
        """The placement in link coordinates, given the link's frame in CAD coordinates."""
        if self.relative_to == "link":
            return self.matrix
        return inverse(link_frame) @ self.matrix

    def mirrored(self, mirror: Array) -> Placement:
        """Its image in a mirror, (4, 4)."""
        # Mirrored on both sides a right-handed frame stays right-handed.
        return Placement(mirror @ self.matrix @ mirror, self.relative_to)

    @staticmethod
    def of(value: Any) -> Placement:
        """A placement from anything a user may give for one.

        Accepts a `Placement`, an `Axis` found in the CAD (its origin; on a face, or where x is
        said, with z along it, otherwise parallel to the CAD), a `Frame` of the CAD, a mapping with
        xyz, rpy and relative_to, three lengths, a (4, 4) matrix, or None.
        """
        if value is None:
            return Placement()
        if isinstance(value, Placement):
            return value
        if isinstance(value, Axis):
            return parallel(value) if not value.oriented else Placement.of(value.frame())
        if isinstance(value, Frame):
            return Placement(_rigid(value.matrix), "cad")
        if isinstance(value, Mapping):
            entry = PlacementEntry.model_validate(dict(value))
            return Placement(placement(entry.xyz, rotation_from_rpy(entry.rpy)), entry.relative_to)
        matrix = np.asarray(value) if not isinstance(value, str) else np.empty(0)
        if matrix.shape == (4, 4):
            return Placement(_rigid(matrix.astype(float)))
        if matrix.shape == (3,):
            return Placement.of({"xyz": list(value)})
        raise ValueError(f"{value!r} is no placement; write {{xyz: [...], rpy: [...]}}")


def parallel(axis: Axis) -> Placement:
    """A frame on an axis that is parallel to the CAD's, but for the turn that was asked for."""
    return Placement(placement(axis.origin, axis.turn), "cad")


def _rigid(matrix: Array) -> Array:
    rotation = matrix[:3, :3]
    if not np.isfinite(matrix).all():
        raise ValueError("the placement holds values that are not finite")
    if np.abs(rotation @ rotation.T - np.eye(3)).max() > 1e-9 or np.linalg.det(rotation) < 0:
        raise ValueError("the placement's rotation is no right-handed rotation matrix")
    return matrix


Where = Axis | Frame | Placement | Mapping[str, Any] | Sequence[float | str] | Array | None
"""What `Placement.of` accepts."""


def _read(value: Any, info: ValidationInfo) -> Placement:
    """A placement; one that is found in the CAD, where the context knows one."""
    if info.context is not None and isinstance(value, Mapping):
        value = info.context.place(value) or value
    return Placement.of(value)


PlacementField = Annotated[
    Placement,
    Geometric("placement"),
    BeforeValidator(_read),
    WithJsonSchema({"$comment": "a place"}),
]


def found_at(entry: Mapping[str, Any], info: ValidationInfo) -> Any:
    """What an entry says `at`; if that is to be found in the CAD, what is found.

    Raises:
        EntryError: it is not found.
    """
    at = entry.get("at")
    if info.context is None or not isinstance(at, Mapping):
        return at
    try:
        return info.context.place(at) or at
    except EntryError as error:
        raise error.inside("at") from None


def axis_along(entry: Any, info: ValidationInfo) -> Any:
    """An entry whose `at` is an axis found in the CAD: that tells the direction, too.

    The user may give an axis besides, which then says which way along it is positive.

    Raises:
        ValueError: the axis that is given is another.
    """
    if not isinstance(entry, dict):
        return entry
    at = found_at(entry, info)
    if not isinstance(at, Axis):
        return {**entry, "at": at} if "at" in entry else entry
    wanted = entry.get("axis")
    along = at.direction
    if wanted is not None:
        try:
            direction = np.array(read_direction(wanted))
        except ValueError as error:
            raise EntryError("axis", [(("axis",), str(error))]) from None
        cosine = float(direction @ along)
        if abs(cosine) < np.cos(np.radians(1.0)):
            angle = np.degrees(np.arccos(min(1.0, abs(cosine))))
            text = (
                f"the axis {wanted} is {angle:.3g} deg off the axis found in the CAD ({at.found}); "
                "leave it out, or give the direction that is positive"
            )
            raise EntryError("axis", [(("axis",), text)])
        along = along * np.sign(cosine)
    place = Placement.of(at.frame()) if at.x is not None else parallel(at)
    along = place.matrix[:3, :3].T @ along
    return {**entry, "at": place, "axis": tuple(float(v) + 0.0 for v in along)}
