"""A place in the geometry, for a joint or a frame to be put on."""

from __future__ import annotations

from dataclasses import dataclass

from mooring.geometry import Array


@dataclass(frozen=True, eq=False)
class Frame:
    """A coordinate system in the assembly's coordinates.

    Attributes:
        matrix: (4, 4) [m].
        found: in words, what it was found from.
    """

    matrix: Array
    found: str
