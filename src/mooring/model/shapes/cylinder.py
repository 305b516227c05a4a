"""Round bars with flat ends."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from mooring.cad.mesh import Mesh
from mooring.cad.solid import SolidProperties
from mooring.model.definition.fields import Length
from mooring.model.shapes import bodies
from mooring.model.shapes.shape import Core, NumericShape


@dataclass(frozen=True)
class Cylinder(NumericShape):
    """A round bar about its middle, along z; radius and length [m]."""

    kind: ClassVar[str] = "cylinder"
    convex: ClassVar[bool] = True
    radius: Length
    length: Length

    def __post_init__(self) -> None:
        self._read_sizes()

    @property
    def mesh(self) -> Mesh:  # type: ignore[override]
        return bodies.cylinder(self.radius, self.length)

    @property
    def volume(self) -> float:
        return float(np.pi * self.radius**2 * self.length)

    @property
    def solid(self) -> SolidProperties:
        bar, r, h = self.volume, self.radius, self.length
        across, along = bar * (3 * r**2 + h**2) / 12, bar * r**2 / 2
        return SolidProperties(bar, np.zeros(3), np.diag([across, across, along]))

    @property
    def core(self) -> Core:
        return Core(None, (self.radius, self.length / 2))

    @property
    def urdf(self) -> tuple[str, dict[str, Any]]:
        return "cylinder", {"radius": self.radius, "length": self.length}

    @property
    def half_thickness(self) -> float:
        return min(self.radius, self.length / 2)

    def shrunk(self, clearance: float) -> Cylinder:
        radius, length = self.radius - clearance, self.length - 2 * clearance
        return self._with_sizes(clearance, radius=radius, length=length)
