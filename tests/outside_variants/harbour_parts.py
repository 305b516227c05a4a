"""An altimeter, a quarter-turn valve, a cone and wind."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar, Literal

import numpy as np
from pydantic import Field

from mooring.cad.mesh import Mesh
from mooring.cad.solid import SolidProperties
from mooring.geometry import Array
from mooring.model.definition.fields import Length, Motion
from mooring.model.definition.markers import LinkName
from mooring.model.forces import Action, Force
from mooring.model.joint_types import JointType
from mooring.model.sensors import Mounted, Surroundings
from mooring.model.shapes import Core, NumericShape
from mooring.model.shapes.bodies import turned

if TYPE_CHECKING:
    from mooring.model.robot import Robot
    from mooring.tree import Tree


class Altimeter(Mounted):
    """Measures the distance straight down along -z of its frame.

    Attributes:
        kind: altimeter.
        farthest: what it can measure [m].
    """

    probe: ClassVar[str] = "state"

    kind: Literal["altimeter"]
    farthest: Length = Field(default=10.0, gt=0)

    def columns(self, units: Mapping[str, str]) -> dict[str, str]:
        return {"height": "m"}

    def look(self, surroundings: Surroundings, states: Array) -> Array:
        found = []
        for q in states:
            frame = surroundings.frame(self, q)
            down = -frame[None, :3, 2]
            found.append(surroundings.distances(frame[None, :3, 3], down, q, 0.0, self.farthest))
        return np.array(found)

    def faults(self, exact: Array, random: np.random.Generator, motion: Motion) -> Array:
        return exact


class Wind(Force):
    """Air that resists a link's motion.

    Attributes:
        kind: wind.
        link: which.
        area: across the motion [m^2].
    """

    law: ClassVar[str] = "drag"

    kind: Literal["wind"]
    link: LinkName
    area: float = Field(gt=0, allow_inf_nan=False)

    def action(self, robot: Robot, tree: Tree) -> Action:
        return Action(tree.link(self.link), (0.0, 0.5 * 1.2 * 1.1 * self.area, 0.0))


@dataclass(frozen=True)
class Cone(NumericShape):
    """A cone along z about the middle of its axis; radius at the bottom, and length [m]."""

    kind: ClassVar[str] = "cone"
    convex: ClassVar[bool] = True
    radius: Length
    length: Length

    def __post_init__(self) -> None:
        self._read_sizes()

    @property
    def mesh(self) -> Mesh:  # type: ignore[override]
        half = self.length / 2
        return turned(np.array([[0.0, -half], [self.radius, -half], [0.0, half]]))

    @property
    def solid(self) -> SolidProperties:
        volume = np.pi * self.radius**2 * self.length / 3
        across = volume * (3 / 20 * self.radius**2 + 3 / 80 * self.length**2)
        moments = np.diag([across, across, 0.3 * volume * self.radius**2])
        return SolidProperties(volume, np.array([0, 0, -self.length / 4]), moments)

    @property
    def core(self) -> Core:
        return Core(np.ascontiguousarray(self.mesh.vertices))

    @property
    def half_thickness(self) -> float:
        return min(self.radius, self.length / 2)

    def shrunk(self, clearance: float) -> Cone:
        return self._with_sizes(
            clearance, radius=self.radius - clearance, length=self.length - 2 * clearance
        )


VALVE = JointType("valve", core="revolute", ends=True, urdf="revolute", color=2)
