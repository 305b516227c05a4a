"""Balls."""

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
class Sphere(NumericShape):
    """A ball about its centre; radius [m]."""

    kind: ClassVar[str] = "sphere"
    convex: ClassVar[bool] = True
    radius: Length

    def __post_init__(self) -> None:
        self._read_sizes()

    @property
    def mesh(self) -> Mesh:  # type: ignore[override]
        return bodies.ball(self.radius)

    @property
    def volume(self) -> float:
        return float(4 / 3 * np.pi * self.radius**3)

    @property
    def solid(self) -> SolidProperties:
        moments = np.full(3, self.volume * 0.4 * self.radius**2)
        return SolidProperties(self.volume, np.zeros(3), np.diag(moments))

    @property
    def core(self) -> Core:
        return Core(np.zeros((1, 3)), radius=self.radius)

    @property
    def urdf(self) -> tuple[str, dict[str, Any]]:
        return "sphere", {"radius": self.radius}

    @property
    def half_thickness(self) -> float:
        return self.radius

    def shrunk(self, clearance: float) -> Sphere:
        return self._with_sizes(clearance, radius=self.radius - clearance)
