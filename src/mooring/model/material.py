"""Materials by name."""

from __future__ import annotations

import math
from typing import Annotated

from pydantic import Field

from mooring.model.definition.described import Described, Value
from mooring.model.definition.fields import (
    Color,
    Density,
    Length,
    LinearDamping,
    LinearStiffness,
)
from mooring.model.definition.markers import Ref


class SurfaceGive(Value):
    """How a surface gives where it touches, such as a rubber foot.

    Attributes:
        stiffness: force per length by which it is pressed in, where two shapes meet [N/m].
        damping: force per speed of being pressed in [N s/m].
    """

    stiffness: LinearStiffness = Field(gt=0)
    damping: LinearDamping = Field(default=0.0, ge=0)


class Material(Described):
    """What a part is made of.

    Attributes:
        name: as links refer to it.
        density: [kg/m^3].
        color: "#rrggbb", drawn on parts that have no color of their own.
        friction: sliding friction coefficient; two surfaces have the geometric mean of theirs.
        restitution: the share of the speed that an impact gives back; of two the larger counts.
        rolling_friction: how far ahead of its middle something rolling is pressed on [m].
        spinning_friction: the lever of friction against turning on the spot [m].
        give: how it gives where it touches; rigid if not given. Two that give add up.
    """

    name: str = Field(exclude=True)
    density: Density = Field(gt=0)
    color: Color | None = None
    friction: float = Field(default=0.6, ge=0, allow_inf_nan=False)
    restitution: float = Field(default=0.0, ge=0, le=1)
    rolling_friction: Length = Field(default=0.0, ge=0)
    spinning_friction: Length = Field(default=0.0, ge=0)
    give: SurfaceGive | None = None

    @property
    def surface(self) -> tuple[float, float, float, float, float, float]:
        """Friction, restitution, rolling and spinning friction, stiffness and damping."""
        give = (math.inf, 0.0) if self.give is None else (self.give.stiffness, self.give.damping)
        return (
            self.friction, self.restitution, self.rolling_friction, self.spinning_friction, *give,
        )  # fmt: skip


# Usual values at room temperature, from engineering handbooks.
COMMON_DENSITIES: dict[str, float] = {
    "steel": 7850,
    "stainless_steel": 7900,
    "cast_iron": 7200,
    "aluminium": 2700,
    "titanium": 4430,
    "brass": 8500,
    "bronze": 8800,
    "copper": 8960,
    "lead": 11340,
    "abs": 1040,
    "nylon": 1140,
    "pla": 1240,
    "polycarbonate": 1200,
    "polyethylene": 950,
    "pom": 1410,
    "carbon_fibre": 1600,
    "rubber": 1150,
    "plywood": 600,
    "concrete": 2400,
    "water": 1000,
}


def common_material(name: str) -> Material | None:
    """A material of the built-in table, or None."""
    density = COMMON_DENSITIES.get(name)
    return None if density is None else Material(name=name, density=density)


MaterialName = Annotated[str, Ref(("material",), common=tuple(COMMON_DENSITIES))]
"""One of the robot's own, or of the built-in table."""
