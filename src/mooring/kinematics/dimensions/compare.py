"""A table of dimensions held against axes and an end, fitted to them, and what they do not tell."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Any

import numpy as np

from mooring.arguments import proven
from mooring.cad import Axis, Frame
from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.kinematics.dimensions.report import ANGLES, Correction, DimensionReport, Miss
from mooring.model.chain import Chain
from mooring.model.definition.problems import define

_KEYS = ("theta", "d", "a", "alpha")
_CHANGED = {True: 1e-5, False: 1e-6}
"""What counts as a change of an angle [rad] and of a length [m]."""
_HELD = 1e-6
"""How much a parameter that the axes do not determine is held to what it was."""
_FREE = 1e-6
"""Relative; directions of all parameters that move the axes by less are not determined."""
_SIGNS = 2
"""At most so many twists of wrong sign are looked for."""
_WORTH = 0.2
"""A twist is turned if that leaves less than this share of the change it takes otherwise."""


@proven
def compare_dimensions(
    table: Chain | Mapping[str, Any],
    axes: Sequence[Axis],
    end: Frame | None = None,
    *,
    directed: bool = False,
    within: tuple[float, float] = (0.5e-3, 1.75e-3),
) -> DimensionReport:
    """Hold a table of Denavit-Hartenberg parameters against axes found in the CAD.

    Args:
        table: as for `robot.add_chain`, with `convention` standard or modified; its `at` is where
            its base frame is in the CAD.
        axes: of the joints in the CAD, in the order of the rows, such as `assembly.bore(...)`.
        end: the frame in the CAD where the table ends; without it the last flange is not compared.
        directed: whether the axes have the sense in which the joints turn; those of bores have not.
        within: how far off still agrees [m, rad].

    Returns:
        How far each axis is off, and the table that fits: with twists of the other sign if that
        alone explains it, otherwise with the least change of parameters; and which parameters the
        CAD does not determine.

    Raises:
        ModelError: another number of axes than rows, a table of screws, or a wrong value.

    Example:
        `compare_dimensions({"base": "post", "convention": "standard", "rows": [...]},
        [assembly.bore("post", "arm"), assembly.bore("arm", "hand")], assembly.frames["tool"])`
    """
    chain = table if isinstance(table, Chain) else define(Chain, "table", table, name="table")
    if chain.convention == "screws":
        raise ModelError("a table of screws holds the axes themselves; take them from the CAD")
    if len(axes) != len(chain.rows):
        raise ModelError(f"the table has {len(chain.rows)} rows, and {len(axes)} axes are given")
    truth = _Truth(tuple(axes), None if end is None else end.matrix, directed, within)
    start = np.array([[getattr(row, key) for key in _KEYS] for row in chain.rows])
    errors = truth.misses(chain)
    agrees = truth.agrees(errors)
    values, jacobian = truth.fitted(chain, start)
    other = None
    if not agrees:
        values = _with_other_signs(truth, chain, start, values)
        other = _other_convention(truth, chain)
    fitted = _with(chain, values)
    names = [joint for joint, _ in chain.names()]
    corrections = [
        Correction(name, key, float(before), float(after))
        for name, old, new in zip(names, start, values, strict=True)
        for key, before, after in zip(_KEYS, old, new, strict=True)
        if abs(after - before) > _CHANGED[key in ANGLES]
    ]
    return DimensionReport(
        errors,
        fitted,
        tuple(corrections),
        truth.misses(fitted),
        tuple(_undetermined(jacobian, names, end is not None)),
        agrees,
        other,
    )


@dataclass(frozen=True, eq=False)
class _Truth:
    """Where the axes and the end really are."""

    axes: tuple[Axis, ...]
    end: Array | None
    directed: bool
    within: tuple[float, float]

    def agrees(self, misses: Sequence[Miss]) -> bool:
        return all(m.distance <= self.within[0] and m.angle <= self.within[1] for m in misses)

    def misses(self, chain: Chain) -> tuple[Miss, ...]:
        lines, last = _lines(chain)
        found = []
        for (name, _), (point, along), axis in zip(chain.names(), lines, self.axes, strict=True):
            distance = float(np.linalg.norm(_across(point - axis.origin, axis)))
            sine = float(np.linalg.norm(np.cross(along, axis.direction)))
            opposite = self.directed and float(along @ axis.direction) < 0
            found.append(Miss(name, distance, float(np.arcsin(min(1.0, sine))), opposite))
        if self.end is not None:
            turn = last[:3, :3].T @ self.end[:3, :3]
            cosine = np.clip((np.trace(turn) - 1) / 2, -1, 1)
            gap = float(np.linalg.norm(last[:3, 3] - self.end[:3, 3]))
            found.append(Miss("end", gap, float(np.arccos(cosine))))
        return tuple(found)

    def fitted(self, chain: Chain, start: Array) -> tuple[Array, Array]:
        """The parameters that fit best, (n, 4), and how the misses change with them, (m, 4 n)."""
        from scipy.optimize import least_squares

        reach = max(1e-3, float(np.abs(start[:, 1:3]).sum()))

        def off(values: Array) -> Array:
            lines, last = _lines(_with(chain, values.reshape(-1, 4)))
            parts = []
            for (point, along), axis in zip(lines, self.axes, strict=True):
                parts.append(_across(point - axis.origin, axis))
                parts.append(reach * np.cross(along, axis.direction))
            if self.end is not None:
                parts.append(last[:3, 3] - self.end[:3, 3])
                parts += [reach * (last[:3, k] - self.end[:3, k]) for k in range(3)]
            return np.concatenate(parts)

        def held(values: Array) -> Array:
            return np.concatenate([_HELD * (values - start.ravel()), off(values)])

        found = least_squares(held, start.ravel(), xtol=1e-14, ftol=1e-14, gtol=1e-14)
        jacobian: Array = np.asarray(found.jac)[start.size :]
        return np.asarray(found.x.reshape(-1, 4)), jacobian


def _with_other_signs(truth: _Truth, chain: Chain, start: Array, fitted: Array) -> Array:
    """The table that fits with the fewest twists turned round, where that explains it better.

    If turning them alone makes it agree, of several those after which the fewest axes point the
    other way; otherwise a single one, after which much less is left to be changed.
    """
    twisted = [k for k in range(len(start)) if abs(np.sin(start[k, 3])) > 1e-6]
    for count in range(1, min(_SIGNS, len(twisted)) + 1):
        found: list[tuple[int, Array]] = []
        for chosen in combinations(twisted, count):
            values = _turned(start, chosen)
            misses = truth.misses(_with(chain, values))
            if truth.agrees(misses):
                found.append((sum(miss.opposite for miss in misses), values))
        if found:
            return min(found, key=lambda one: one[0])[1]
    best, least = fitted, _WORTH * _change(start, fitted)
    for one in twisted:
        turned = _turned(start, (one,))
        values, _ = truth.fitted(chain, turned)
        cost = _change(turned, values)
        if cost < least and truth.agrees(truth.misses(_with(chain, values))):
            best, least = values, cost
    return best


def _turned(values: Array, chosen: Sequence[int]) -> Array:
    turned = values.copy()
    turned[list(chosen), 3] *= -1
    return turned


def _change(before: Array, after: Array) -> float:
    """How much a table is changed [m]; angles by what they move at its reach."""
    reach = max(1e-3, float(np.abs(before[:, 1:3]).sum()))
    return float((np.abs(after - before) * [reach, 1.0, 1.0, reach]).sum())


def _other_convention(truth: _Truth, chain: Chain) -> str | None:
    other = "modified" if chain.convention == "standard" else "standard"
    taken = chain.model_copy(update={"convention": other})
    return other if truth.agrees(truth.misses(taken)) else None


def _undetermined(jacobian: Array, names: Sequence[str], has_end: bool) -> list[str]:
    """The parameters that change nothing that was compared, alone or together."""
    called = [f"{key} of {name}" for name in names for key in _KEYS]
    _, sizes, ways = np.linalg.svd(jacobian)
    rank = int((sizes > _FREE * max(float(sizes[0]), 1e-12)).sum())
    alone: list[str] = []
    together: list[str] = []
    for way in _echelon(ways[rank:]):
        involved = [called[k] for k in np.flatnonzero(np.abs(way) > 1e-4)]
        (alone if len(involved) == 1 else together).append(" and ".join(involved))
    found = [f"only together are told by the CAD: {words}" for words in together]
    if alone:
        hint = "" if has_end else "; give the end frame to compare the last flange"
        found.insert(0, f"not told by the CAD: {', '.join(alone)}{hint}")
    return found


def _echelon(rows: Array) -> Array:
    """The reduced row echelon form: each row with as few entries as can be, the last first."""
    rows = np.array(rows)
    done = 0
    for column in reversed(range(rows.shape[1])):
        if done == len(rows):
            break
        pivot = done + int(np.argmax(np.abs(rows[done:, column])))
        if abs(rows[pivot, column]) < 1e-6:
            continue
        rows[[done, pivot]] = rows[[pivot, done]]
        rows[done] /= rows[done, column]
        others = np.arange(len(rows)) != done
        rows[others] -= np.outer(rows[others, column], rows[done])
        done += 1
    return rows


def _with(chain: Chain, values: Array) -> Chain:
    rows = [
        row.model_copy(update=dict(zip(_KEYS, (float(v) for v in own), strict=True)))
        for row, own in zip(chain.rows, values, strict=True)
    ]
    return chain.model_copy(update={"rows": rows})


def _lines(chain: Chain) -> tuple[list[tuple[Array, Array]], Array]:
    """A point on each joint's axis and its direction, and the end, in CAD coordinates."""
    here = chain.at.matrix
    lines = []
    steps, last = chain.placements()
    for step, axis in steps:
        here = here @ step
        lines.append((here[:3, 3], here[:3, :3] @ np.array(axis)))
    return lines, here @ last


def _across(way: Array, axis: Axis) -> Array:
    return np.asarray(way - (way @ axis.direction) * axis.direction)
