"""What comes of holding a table of dimensions against a robot."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from mooring.model.chain import Chain
from mooring.units import show

ANGLES = ("theta", "alpha")


@dataclass(frozen=True)
class Miss:
    """How far an axis or the end by the table is from the one in the CAD.

    Attributes:
        of: the joint's name, or that of the end.
        distance: from the table's origin to the axis in the CAD, or between the ends [m].
        angle: between the two [rad].
        opposite: whether the axis by the table points the other way.
    """

    of: str
    distance: float
    angle: float
    opposite: bool = False

    def __str__(self) -> str:
        millimetres = round(1000 * self.distance, 6)
        degrees = round(float(np.degrees(self.angle)), 6)
        return f"{float(f'{millimetres:.3g}'):.6g} mm and {float(f'{degrees:.3g}'):.6g} deg"


@dataclass(frozen=True)
class Correction:
    """A parameter that the CAD wants otherwise.

    Attributes:
        joint: of the row.
        parameter: theta, d, a or alpha.
        before, after: its values [rad or m].
    """

    joint: str
    parameter: str
    before: float
    after: float

    def __str__(self) -> str:
        kind = "angle" if self.parameter in ANGLES else "length"
        before, after = round(self.before, 9), round(self.after, 9)
        change = after - before
        if self.parameter == "alpha" and abs(self.after + self.before) < 1e-9:
            return (
                f"{self.joint}: alpha has the wrong sign, "
                f"{show(before, kind, 6)} must be {show(after, kind, 6)}"
            )
        return (
            f"{self.joint}: {self.parameter} {show(before, kind, 6)} -> "
            f"{show(after, kind, 6)} ({'+' if change > 0 else ''}{show(change, kind, 3)})"
        )


@dataclass(frozen=True)
class DimensionReport:
    """A table compared with the CAD.

    Attributes:
        errors: of each joint's axis by the table as it is, and of its end where one is given.
        fitted: the table that fits best, with the fewest changes.
        corrections: what that changes.
        left: errors of the fitted table.
        undetermined: parameters that nothing in the CAD tells, or only together, in words.
        agrees: whether all is within the tolerances.
        other_convention: the convention by which the table agrees, where it is not its own.
    """

    errors: tuple[Miss, ...]
    fitted: Chain
    corrections: tuple[Correction, ...]
    left: tuple[Miss, ...]
    undetermined: tuple[str, ...]
    agrees: bool
    other_convention: str | None = None

    @property
    def worst(self) -> Miss:
        """The largest miss."""
        return max(self.errors, key=lambda miss: (miss.distance + miss.angle, miss.of))

    def lines(self) -> Iterator[str]:
        """The report, a line each."""
        for before, after in zip(self.errors, self.left, strict=True):
            fitted = "" if self.agrees else f"; after fitting {after}"
            way = "; it points the other way, so that its positions change sign"
            yield f"{before.of}: off by {before}{fitted}{way if before.opposite else ''}"
        if self.other_convention is not None:
            yield f"taken as convention: {self.other_convention} the table agrees"
        elif not self.agrees:
            yield from map(str, self.corrections)
        yield from self.undetermined

    def __str__(self) -> str:
        return "\n".join(self.lines())
