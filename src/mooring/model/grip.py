"""Grips that hold by suction or magnetism, up to a force."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from mooring.model.definition.described import Described
from mooring.model.definition.fields import Force as ForceOf
from mooring.model.definition.fields import Length, Torque
from mooring.model.definition.markers import FrameName


class Grip(Described):
    """A suction cup or magnet: while it is on, what its link touches is held up to a force.

    Attributes:
        name: unique among the robot's grips.
        kind: suction or magnet.
        frame: where it sits; it holds along z.
        force: the largest pull along z that it holds [N].
        shear: the largest force across that; as much as `force` if not given [N].
        moment: the largest moment; it holds any if not given [N m].
        reach: how far from it something may be to be taken [m].
        on: whether it is on at the start.
    """

    name: str = Field(exclude=True)
    kind: Literal["suction", "magnet"] = "suction"
    frame: FrameName
    force: ForceOf = Field(gt=0)
    shear: ForceOf | None = Field(default=None, gt=0)
    moment: Torque | None = Field(default=None, gt=0)
    reach: Length = Field(default=0.002, ge=0)
    on: bool = False
