"""A table of dimensions against the axes that the CAD really has."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from mooring.cad import Axis
from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.model.chain import Chain
from mooring.model.definition.problems import define
from mooring.units import show

_KEYS = ("theta", "d", "a", "alpha")
_ANGLES = ("theta", "alpha")
_CHANGED = {True: 1e-5, False: 1e-6}
"""What counts as a change of an angle [rad] and of a length [m]."""
_HELD = 1e-6
"""How much a parameter that the axes do not determine is held to what it was."""


@dataclass(frozen=True)
class AxisError:
    """How far a joint's axis by the table is from the one in the CAD.

    Attributes:
        joint: its name.
        distance: from the table's origin to the axis in the CAD [m].
        angle: between the two [rad].
    """

    joint: str
    distance: float
    angle: float


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
        kind = "angle" if self.parameter in _ANGLES else "length"
        change = self.after - self.before
        return (
            f"{self.joint}: {self.parameter} {show(self.before, kind, 6)} -> "
            f"{show(self.after, kind, 6)} ({'+' if change > 0 else ''}{show(change, kind, 3)})"
        )


@dataclass(frozen=True)
class DimensionReport:
    """A table compared with the CAD.

    Attributes:
        errors: of each joint's axis by the table as it is.
        fitted: the table that fits the CAD best, with the fewest changes.
        corrections: what that changes.
        left: errors of the fitted table.
    """

    errors: tuple[AxisError, ...]
    fitted: Chain
    corrections: tuple[Correction, ...]
    left: tuple[AxisError, ...]

    def __str__(self) -> str:
        lines = [
            f"{e.joint}: off by {1000 * e.distance:.3g} mm and {np.degrees(e.angle):.3g} deg, "
            f"after fitting by {1000 * f.distance:.2g} mm and {np.degrees(f.angle):.2g} deg"
            for e, f in zip(self.errors, self.left, strict=True)
        ]
        return "\n".join([*lines, *(str(correction) for correction in self.corrections)])


def compare_dimensions(table: Chain | Mapping[str, Any], axes: Sequence[Axis]) -> DimensionReport:
    """Hold a table of Denavit-Hartenberg parameters against axes found in the CAD.

    Args:
        table: as for `robot.add_chain`, with `convention` standard or modified; its `at` is where
            its base frame is in the CAD.
        axes: of the joints in the CAD, in the order of the rows, such as `assembly.bore(...)`.

    Returns:
        How far each axis is off, and the table that fits: with the least change of parameters,
        for the CAD does not determine all of them.

    Raises:
        ModelError: another number of axes than rows, a table of screws, or a wrong value.

    Example:
        `compare_dimensions({"base": "post", "convention": "standard", "rows": [...]},
        [assembly.bore("post", "arm"), assembly.bore("arm", "hand")])`
    """
    chain = table if isinstance(table, Chain) else define(Chain, "table", table, name="table")
    if chain.convention == "screws":
        raise ModelError("a table of screws holds the axes themselves; take them from the CAD")
    if len(axes) != len(chain.rows):
        raise ModelError(f"the table has {len(chain.rows)} rows, and {len(axes)} axes are given")
    from scipy.optimize import least_squares

    start = np.array([[getattr(row, key) for key in _KEYS] for row in chain.rows])
    reach = max(1e-3, float(np.abs(start[:, 1:3]).sum()))

    def misses(values: Array) -> Array:
        moved = _with(chain, values.reshape(-1, 4))
        parts = [_HELD * (values - start.ravel())]
        for (point, along), axis in zip(_lines(moved), axes, strict=True):
            way = point - axis.origin
            parts.append(way - (way @ axis.direction) * axis.direction)
            parts.append(reach * np.cross(along, axis.direction))
        return np.concatenate(parts)

    found = least_squares(misses, start.ravel(), xtol=1e-14, ftol=1e-14, gtol=1e-14)
    fitted = _with(chain, found.x.reshape(-1, 4))
    names = [joint for joint, _ in chain.names()]
    corrections = [
        Correction(name, key, float(before), float(after))
        for name, old, new in zip(names, start, found.x.reshape(-1, 4), strict=True)
        for key, before, after in zip(_KEYS, old, new, strict=True)
        if abs(after - before) > _CHANGED[key in _ANGLES]
    ]
    return DimensionReport(
        _errors(chain, names, axes), fitted, tuple(corrections), _errors(fitted, names, axes)
    )


def _with(chain: Chain, values: Array) -> Chain:
    rows = [
        row.model_copy(update=dict(zip(_KEYS, (float(v) for v in own), strict=True)))
        for row, own in zip(chain.rows, values, strict=True)
    ]
    return chain.model_copy(update={"rows": rows})


def _lines(chain: Chain) -> list[tuple[Array, Array]]:
    """A point on each joint's axis and its direction, in CAD coordinates."""
    here = chain.at.matrix
    lines = []
    for step, axis in chain.placements()[0]:
        here = here @ step
        lines.append((here[:3, 3], here[:3, :3] @ np.array(axis)))
    return lines


def _errors(chain: Chain, names: Sequence[str], axes: Sequence[Axis]) -> tuple[AxisError, ...]:
    errors = []
    for name, (point, along), axis in zip(names, _lines(chain), axes, strict=True):
        way = point - axis.origin
        distance = float(np.linalg.norm(way - (way @ axis.direction) * axis.direction))
        sine = float(np.linalg.norm(np.cross(along, axis.direction)))
        errors.append(AxisError(name, distance, float(np.arcsin(min(1.0, sine)))))
    return tuple(errors)
