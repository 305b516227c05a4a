"""An axis found in the geometry, for a joint to be placed on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from mooring.cad.places.frame import Frame
from mooring.errors import ModelError
from mooring.geometry import Array, placement


@dataclass(frozen=True, eq=False)
class Axis:
    """A line in the assembly's coordinates.

    Attributes:
        origin: a point on it, (3,) [m].
        direction: unit vector, (3,); along the coordinate axis it is closest to.
        radius: of the bore it was found in [m].
        found: in words, what it was found from.
        outward: whether it looks out of a face.
        x: where the x axis of a frame on it points, as near as it can, (3,); None if not said.
        turn: by which a frame on it is turned in its own axes, (3, 3).
    """

    origin: Array
    direction: Array
    radius: float
    found: str
    outward: bool = False
    x: Array | None = None
    turn: Array = field(default_factory=lambda: np.eye(3))

    @property
    def oriented(self) -> bool:
        """Whether a frame on it has z along it; otherwise its axes are parallel to the CAD's."""
        return self.outward or self.x is not None

    def frame(self, x: str | Sequence[float] | Array | Axis | None = None) -> Frame:
        """A frame with z along the axis.

        Args:
            x: where its x axis points, made square to z: a direction, the way a face looks, along
                an edge, or toward a bore. If not given, the frame is the CAD's, tilted.

        Raises:
            ModelError: x is along z.

        Example:
            `assembly.face("flange", "x").frame(x=assembly.axis("flange", radius="3 mm"))`
        """
        if x is None:
            toward = self.x if self.x is not None else _tilted(self.direction, 2, 0)
        elif isinstance(x, Axis):
            toward = x.origin - self.origin if x.radius else x.direction
        else:
            toward = direction_of(x) if isinstance(x, str) else np.asarray(x, dtype=float)
        across = toward - (toward @ self.direction) * self.direction
        if np.linalg.norm(across) < 1e-4 * max(float(np.linalg.norm(toward)), 1e-9):
            raise ModelError(f"x of the frame on the {self.found} would be along its z axis")
        first = across / np.linalg.norm(across)
        rotation = np.column_stack([first, np.cross(self.direction, first), self.direction])
        return Frame(placement(self.origin, rotation @ self.turn), self.found)

    def sight(self) -> Frame:
        """A frame with x along the axis and z as near to the CAD's as it can, as sensors look."""
        up = _tilted(self.direction, 0, 2)
        up = up - (up @ self.direction) * self.direction
        up /= np.linalg.norm(up)
        rotation = np.column_stack([self.direction, np.cross(up, self.direction), up])
        return Frame(placement(self.origin, rotation @ self.turn), self.found)


def _tilted(direction: Array, out: int, other: int) -> Array:
    """Where a coordinate axis comes to if another is tilted into a direction."""
    along = direction[other]
    if abs(along) < 1 - 1e-9:
        return np.asarray(np.eye(3)[other])
    return np.asarray(-np.sign(along) * np.eye(3)[out])


def direction_of(words: str | Sequence[float]) -> Array:
    """A unit vector (3,) from `"x"`, `"-z"`, `"+y"` or three numbers.

    Raises:
        ModelError: it is no direction.
    """
    if isinstance(words, str):
        sign, name = (words[0], words[1:]) if words[:1] in ("+", "-") else ("+", words)
        if name in ("x", "y", "z"):
            return np.asarray(np.eye(3)["xyz".index(name)] * (-1.0 if sign == "-" else 1.0))
    else:
        vector = np.asarray(words, dtype=float)
        if vector.shape == (3,) and np.isfinite(vector).all() and np.linalg.norm(vector) > 0:
            return np.asarray(vector / np.linalg.norm(vector))
    raise ModelError(f"{words!r} is no direction; write x, -z or three numbers")


def words_of(direction: Array) -> str | list[float]:
    """A unit vector (3,) as `direction_of` reads it: `"x"`, `"-z"`, or three numbers."""
    for name, unit in zip("xyz", np.eye(3), strict=True):
        if abs(direction @ unit) > 1 - 1e-9:
            return name if direction @ unit > 0 else f"-{name}"
    return [round(float(value), 9) + 0.0 for value in direction]


def with_usual_sign(direction: Array) -> Array:
    """The direction or its opposite, whichever has its largest component positive."""
    direction = direction / np.linalg.norm(direction)
    # Clean the noise of 1e-17 that rotations leave, so that written files read well.
    direction = np.where(np.abs(direction) < 1e-12, 0.0, direction)
    largest = int(np.argmax(np.abs(direction)))
    return np.asarray(direction if direction[largest] > 0 else -direction)
