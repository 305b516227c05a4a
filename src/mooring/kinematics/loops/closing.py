"""Positions in which couplings and closures hold."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from mooring._native import kinematics as kernels
from mooring.arguments import proven
from mooring.errors import RunError
from mooring.geometry import Array
from mooring.tree import Tree
from mooring.tree.arrays import FLOATING
from mooring.units import show

LOOP_TOLERANCE = 1e-9
"""Largest gap of a closed loop [m or rad]."""
_KINDS = {"rotation": "angle", "translation": "length"}
_MOST_STEPS = 60


@proven
def close_loops(tree: Tree, q: Array, held: list[str], what: str = "this posture") -> Array:
    """The positions nearest to q in which couplings and closures hold.

    Args:
        tree: from `robot.tree()`.
        q: where to start, (n,).
        held: names of the joints that must stay where they are.
        what: how messages call the position.

    Returns:
        (n,); a copy.

    Raises:
        RunError: the loops cannot be closed.
    """
    result = np.ascontiguousarray(q, dtype=float).copy()
    if not len(tree.loops.follower) and not len(tree.loops.first):
        return result
    return _closed(tree, result, held, what)


def _closed(tree: Tree, result: Array, held: Sequence[str], what: str) -> Array:
    free = loop_freedoms(tree)
    for joint in held:
        free[tree.freedom(joint)] = False
    lower, upper = tree.joints.lower, tree.joints.upper
    start = result.copy()
    gap = kernels.close_loops(tree.native, result, free, lower, upper, LOOP_TOLERANCE, _MOST_STEPS)
    if gap > LOOP_TOLERANCE:
        # The limits may have stopped the search: tell that apart from a loop out of reach.
        wide = np.full(len(lower), 1e9)
        beyond = start.copy()
        gap_beyond = kernels.close_loops(
            tree.native, beyond, free, -wide, wide, LOOP_TOLERANCE, _MOST_STEPS
        )
        over = [
            name
            for k, name in enumerate(tree.freedoms)
            if free[k]
            and (at := tree.arrays.position[k]) >= 0
            and not lower[k] - 1e-9 <= beyond[at] <= upper[k] + 1e-9
        ]
        why = (
            f"{', '.join(over)} would have to go beyond the limits"
            if gap_beyond <= LOOP_TOLERANCE and over
            else _where_open(tree, result, gap, held)
        )
        raise RunError(f"the loops of the robot do not close in {what}: {why}")
    return result


def _where_open(tree: Tree, q: Array, gap: float, held: Sequence[str]) -> str:
    """Which of the loops stays open, and with what joints given."""
    from mooring.kinematics.loops.equations import equations

    rows = np.abs(equations(tree, q)[0])
    counts = [1] * len(tree.loops.follower) + [int(row.sum()) for row in tree.loops.held]
    owner = np.repeat(np.arange(len(counts)), counts)
    gaps = [float(rows[owner == k].max(initial=0.0)) for k in range(len(counts))]
    # One that does not close pulls at the others: what is open by little is not to blame.
    open_ones = [k for k in np.argsort(gaps)[::-1] if gaps[k] > max(LOOP_TOLERANCE, gap / 10)]
    names = " and ".join(tree.loop_names[k] for k in open_ones[:3])
    kinds = [_KINDS[tree.motions[tree.freedom(joint)]] for joint in held]
    given = [
        f"{joint} at {show(float(q[tree.coordinate(joint)]), kind)}"
        for joint, kind in zip(held, kinds, strict=True)
    ]
    text = f"{1000 * gap:.3g} mm or mrad remain open at {names}"
    return text + (f", with {', '.join(given)}" if given else "")


@proven
def loop_freedoms(tree: Tree) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which freedoms a coupling or closure can move, (m,)."""
    free = np.zeros(len(tree.freedoms), dtype=np.bool_)
    free[tree.loops.follower] = True
    free[tree.loops.leader] = True
    for first, second in zip(tree.loops.first, tree.loops.second, strict=True):
        for freedom in _chain(tree, first) ^ _chain(tree, second):
            free[freedom] = True
    return free


def _chain(tree: Tree, body: int) -> set[int]:
    """The freedoms between a body and the root."""
    found: set[int] = set()
    while body > 0:
        first = int(tree.arrays.freedom[body])
        if first >= 0:
            count = 6 if tree.arrays.kind[body] == FLOATING else 1
            found.update(range(first, first + count))
        body = int(tree.arrays.parent[body])
    return found
