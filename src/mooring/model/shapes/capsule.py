"""Round bars with round ends."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from mooring.cad.mesh import Mesh
from mooring.cad.solid import SolidProperties
from mooring.geometry import Array, placement
from mooring.model.definition.fields import Length
from mooring.model.shapes import bodies
from mooring.model.shapes.cylinder import Cylinder
from mooring.model.shapes.shape import Core, NumericShape, Shape
from mooring.model.shapes.sphere import Sphere


@dataclass(frozen=True)
class Capsule(NumericShape):
    """A round bar along z with half-spheres at its ends; `length` without them [m]."""

    kind: ClassVar[str] = "capsule"
    convex: ClassVar[bool] = True
    radius: Length
    length: Length

    def __post_init__(self) -> None:
        self._read_sizes()

    @property
    def mesh(self) -> Mesh:  # type: ignore[override]
        return bodies.rod(self.radius, self.length)

    @property
    def volume(self) -> float:
        return float(np.pi * self.radius**2 * (self.length + 4 / 3 * self.radius))

    @property
    def solid(self) -> SolidProperties:
        bar, r, h = Cylinder(self.radius, self.length).solid, self.radius, self.length
        # Two half-balls, each with its middle 3/8 of the radius beyond the bar.
        ball = 4 / 3 * np.pi * r**3
        across = ball * (0.4 * r**2 + h**2 / 4 + 3 / 8 * h * r)
        along = ball * 0.4 * r**2
        moments = bar.inertia + np.diag([across, across, along])
        return SolidProperties(self.volume, np.zeros(3), moments)

    @property
    def core(self) -> Core:
        half = self.length / 2
        return Core(np.array([[0, 0, -half], [0, 0, half]]), radius=self.radius)

    @property
    def half_thickness(self) -> float:
        return self.radius

    def shrunk(self, clearance: float) -> Capsule:
        return self._with_sizes(clearance, radius=self.radius - clearance)

    def pieces(self) -> list[tuple[Shape, Array]]:
        ends = [(0.0, 0.0, side * self.length / 2) for side in (-1, 1)]
        balls = [(Sphere(self.radius), placement(end)) for end in ends]
        return [(Cylinder(self.radius, self.length), np.eye(4)), *balls]
