"""Chains of joints given as a table: Denavit-Hartenberg parameters or screw axes."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from pydantic import Field, model_validator

from mooring.geometry import Array, inverse, placement, rotation_about
from mooring.model.definition.described import Table, Value
from mooring.model.definition.fields import Angle, Direction, Length, Lengths
from mooring.model.definition.markers import EndLinkName, LinkName
from mooring.model.definition.problems import EntryError, Path
from mooring.model.joint_types import motion_of
from mooring.model.placement import Placement, PlacementField

Step = tuple[Array, tuple[float, float, float]]
"""A joint's frame in the link before, (4, 4), and its axis in it."""

_X, _Z = (1.0, 0.0, 0.0), (0.0, 0.0, 1.0)


class TableRow(Value):
    """One joint of a chain.

    Attributes:
        type: revolute, continuous or prismatic.
        theta, d, a, alpha: Denavit-Hartenberg parameters at zero: the turn about z [rad], the shift
            along z [m], the shift along x [m] and the turn about x [rad].
        axis, point: for screw axes, the joint's axis and a point on it [m], in the coordinates of
            the base at zero.
        joint, link: names; numbered after the chain if not given.
        limits, damping, friction: as of a joint.
    """

    type: Literal["revolute", "continuous", "prismatic"] = "revolute"
    theta: Angle = 0.0
    d: Length = 0.0
    a: Length = 0.0
    alpha: Angle = 0.0
    axis: Direction | None = None
    point: Lengths | None = None
    joint: str | None = None
    link: EndLinkName | None = None
    limits: Table[str, Any] | None = None
    damping: float | str = 0.0
    friction: float | str = 0.0


def row_names(chain: str, number: int, joint: str | None, link: str | None) -> tuple[str, str]:
    """The joint and the link of a row, counted from 0, by what it says of them."""
    return joint or f"{chain}_joint_{number + 1}", link or f"{chain}_link_{number + 1}"


class Chain(Value):
    """A chain of joints from a table.

    Attributes:
        name: of the chain.
        base: the link it begins on.
        at: where the table's base frame is on that link (or in the CAD).
        convention: `"standard"` (Denavit and Hartenberg 1955; A = Rz(theta) Tz(d) Tx(a) Rx(alpha)),
            `"modified"` (Craig 1986; T = Rx(alpha) Tx(a) Rz(theta) Tz(d), with alpha and a of the
            joint before) or `"screws"` (Lynch and Park 2017, section 4.1).
        rows: a joint each, from the base outwards.
        end: for screws, the end frame at zero, in the coordinates of the base.
        frame: name of the frame at the end, of role tool; the chain's name and `end` if not given.
    """

    name: str = Field(exclude=True)
    base: LinkName
    at: PlacementField = Field(default_factory=Placement)
    convention: Literal["standard", "modified", "screws"]
    rows: tuple[TableRow, ...] = Field(min_length=1)
    end: PlacementField = Field(default_factory=Placement)
    frame: str | None = None

    @model_validator(mode="after")
    def _rows_fit_the_convention(self) -> Chain:
        table = {"theta", "d", "a", "alpha"}
        for number, row in enumerate(self.rows, start=1):
            given = row.model_fields_set
            if self.convention == "screws":
                wrong, missing = given & table, {"axis", "point"} - given
            else:
                wrong, missing = given & {"axis", "point"}, set()
            problems: list[tuple[Path, str]] = [
                (("rows", number - 1, key), f"row {number}: {key!r} is not for {self.convention}")
                for key in sorted(wrong)
            ]
            problems += [
                (("rows", number - 1), f"row {number}: {key!r} is missing")
                for key in sorted(missing)
            ]
            if problems:
                raise EntryError("chain", problems)
        return self

    def names(self) -> list[tuple[str, str]]:
        """The joint and the link of each row."""
        return [
            row_names(self.name, number, row.joint, row.link)
            for number, row in enumerate(self.rows)
        ]

    def placements(self) -> tuple[list[Step], Array]:
        """Each joint's frame in the link before, with its axis, and the end in the last link.

        The first is measured from the table's base frame. A link's frame is its joint's at zero.
        """
        if self.convention == "screws":
            return self._screws()
        if self.convention == "modified":
            craig = [
                _turn(_X, r.alpha) @ _shift(x=r.a) @ _turn(_Z, r.theta) @ _shift(z=r.d)
                for r in self.rows
            ]
            return [(step, _Z) for step in craig], np.eye(4)
        steps: list[Step] = []
        before: Array = np.eye(4)
        for r in self.rows:
            # The joint moves along or about z before it comes to the shifts and turns behind.
            slides = motion_of(r.type) == "translation"
            first = _turn(_Z, r.theta) @ (_shift(z=r.d) if slides else np.eye(4))
            steps.append((before @ first, _Z))
            before = (np.eye(4) if slides else _shift(z=r.d)) @ _shift(x=r.a) @ _turn(_X, r.alpha)
        return steps, before

    def _screws(self) -> tuple[list[Step], Array]:
        steps: list[Step] = []
        before: Array = np.eye(4)
        for row in self.rows:
            assert row.point is not None
            assert row.axis is not None
            here = placement(row.point)
            steps.append((inverse(before) @ here, row.axis))
            before = here
        return steps, inverse(before) @ self.end.matrix


def _turn(axis: tuple[float, float, float], angle: float) -> Array:
    return placement(rotation=rotation_about(axis, angle))


def _shift(x: float = 0.0, z: float = 0.0) -> Array:
    return placement((x, 0.0, z))
