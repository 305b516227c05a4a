"""Colors of single triangles, where a file paints faces and not only parts."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, eq=False)
class Paint:
    """Which triangles have a color of their own.

    Attributes:
        colors: "#rrggbb" each.
        of_triangle: for each triangle the index of its color, or -1 for the part's color, (m,).
    """

    colors: tuple[str, ...]
    of_triangle: NDArray[np.int32]

    def of(self, triangles: NDArray[np.bool_] | NDArray[np.int64]) -> Paint:
        """The paint of some of the triangles."""
        return Paint(self.colors, self.of_triangle[triangles])


def painted(colors: list[str | None]) -> Paint | None:
    """The paint of triangles with these colors; None where none has one."""
    distinct = sorted({color for color in colors if color is not None})
    if not distinct:
        return None
    number = {color: k for k, color in enumerate(distinct)} | {None: -1}
    return Paint(tuple(distinct), np.array([number[color] for color in colors], dtype=np.int32))
