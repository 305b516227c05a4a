"""Mass properties of a link, and where they come from."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from mooring.brief import Brief
from mooring.cad.solid import sum_of_moments
from mooring.geometry import Array

MassSource = Literal["computed", "weighed", "given", "assumed"]


@dataclass(frozen=True, eq=False, repr=False)
class Inertia(Brief):
    """Mass, centre of mass and inertia tensor of a rigid body.

    Attributes:
        mass: [kg].
        centre: the centre of mass, (3,) [m].
        tensor: about the centre of mass, axes parallel to the coordinates, (3, 3) [kg m^2].
        source: `"computed"` from volume and density, `"weighed"` (geometry scaled to a weighed
            mass), `"given"` in full, or `"assumed"`.
        detail: the source in words.
    """

    mass: float
    centre: Array
    tensor: Array
    source: MassSource
    detail: str = ""

    def placed(self, place: Array) -> Inertia:
        """The same body described in other coordinates, (4, 4) from these to those."""
        rotation = place[:3, :3]
        return replace(
            self,
            centre=rotation @ self.centre + place[:3, 3],
            tensor=rotation @ self.tensor @ rotation.T,
        )

    def scaled_to(self, mass: float, detail: str) -> Inertia:
        """The same distribution with another, weighed, total mass [kg]."""
        return Inertia(mass, self.centre, self.tensor * (mass / self.mass), "weighed", detail)


def combined(bodies: list[Inertia], source: MassSource, detail: str) -> Inertia:
    """Several bodies held together as one."""
    mass, centre, tensor = sum_of_moments(
        [body.mass for body in bodies],
        [body.centre for body in bodies],
        [body.tensor for body in bodies],
    )
    return Inertia(mass, centre, tensor, source, detail)
