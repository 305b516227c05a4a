"""Blocks."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from mooring.cad.mesh import Mesh
from mooring.cad.solid import SolidProperties
from mooring.model.definition.fields import Lengths
from mooring.model.shapes import bodies
from mooring.model.shapes.shape import Core, NumericShape

_CORNERS = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)])


@dataclass(frozen=True)
class Box(NumericShape):
    """A block about its middle; `size` are its full extents [m]."""

    kind: ClassVar[str] = "box"
    convex: ClassVar[bool] = True
    size: Lengths

    def __post_init__(self) -> None:
        self._read_sizes()

    @property
    def mesh(self) -> Mesh:  # type: ignore[override]
        return bodies.box(self.size)

    @property
    def volume(self) -> float:
        return float(np.prod(self.size))

    @property
    def solid(self) -> SolidProperties:
        x, y, z = (side**2 for side in self.size)
        moments = self.volume / 12 * np.array([y + z, x + z, x + y])
        return SolidProperties(self.volume, np.zeros(3), np.diag(moments))

    @property
    def core(self) -> Core:
        return Core(_CORNERS * np.array(self.size) / 2)

    @property
    def urdf(self) -> tuple[str, dict[str, Any]]:
        return "box", {"size": self.size}

    @property
    def half_thickness(self) -> float:
        return min(self.size) / 2

    def shrunk(self, clearance: float) -> Box:
        return self._with_sizes(clearance, size=tuple(side - 2 * clearance for side in self.size))
