"""Tables of dimensions that a robot must agree with."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from mooring.model.chain import Chain, TableRow
from mooring.model.definition.described import Described, Value
from mooring.model.definition.fields import Angle, Length
from mooring.model.definition.markers import FrameOrLinkName, LinkName, MovingJointName
from mooring.model.placement import Placement, PlacementField


class DimensionRow(Value):
    """One joint of a table: its Denavit-Hartenberg parameters at zero.

    Attributes:
        joint: of the robot; the next moving one on the way from the base if not given.
        theta: the turn about z [rad].
        d: the shift along z [m].
        a: the shift along x [m].
        alpha: the turn about x [rad].
    """

    joint: MovingJointName | None = None
    theta: Angle = 0.0
    d: Length = 0.0
    a: Length = 0.0
    alpha: Angle = 0.0


class DimensionTable(Described):
    """A table of link dimensions, as data sheets and papers have it, to hold the robot against.

    Attributes:
        name: unique among the robot's tables.
        base: the link the table begins on.
        at: where the table's base frame is on that link (or in the CAD).
        convention: standard or modified, as for chains.
        rows: a joint each, from the base outwards.
        end: the frame or link of the robot where it ends; without it that is not compared.
        within: how far axes and end may be off [m].
        within_angle: by how much they may be turned [rad].
    """

    name: str = Field(exclude=True)
    base: LinkName
    at: PlacementField = Field(default_factory=Placement)
    convention: Literal["standard", "modified"] = "standard"
    rows: tuple[DimensionRow, ...] = Field(min_length=1)
    end: FrameOrLinkName | None = None
    within: Length = Field(default=0.5e-3, gt=0)
    within_angle: Angle = Field(default=1.75e-3, gt=0)

    def placed_on(self) -> str:
        return self.base

    def as_chain(self) -> Chain:
        """The joints it would make."""
        keys = ("theta", "d", "a", "alpha")
        rows = tuple(
            TableRow(joint=row.joint, **{key: getattr(row, key) for key in keys})
            for row in self.rows
        )
        return Chain(
            name=self.name, base=self.base, at=self.at, convention=self.convention, rows=rows
        )
