"""Rows with bounds that belong to one freedom: dry friction and stops."""

from __future__ import annotations

import numpy as np

from mooring.compiling import kernel


@kernel
def bounded_rows(
    friction, least, most, positions, free, h, r, ties, jacobian, pair, wanted, soft, gap, lower,
    upper, which, x,
):  # fmt: skip
    """Rows from row r on, of friction in joints and then of stops that may be reached in a step at
    velocities `free` (m,); begins with the impulses `ties` (3 m,) of the step before. `which` tells
    the freedom, of upper stops plus m. Returns the row after the last."""
    m = free.shape[0]
    for c in range(m):
        if friction[c] > 0.0:
            _own_row(r, c, 1.0, jacobian, pair)
            wanted[r], soft[r], which[r] = 0.0, 0.0, c
            lower[r], upper[r] = -h * friction[c], h * friction[c]
            x[r] = min(upper[r], max(lower[r], ties[c]))
            r += 1
    for c in range(m):
        # A little farther than it would go by itself: impulses elsewhere add up.
        reach = h * (2.0 * abs(free[c]) + 1.0)
        for side in range(2):
            sign = 1.0 if side == 0 else -1.0
            left = positions[c] - least[c] if side == 0 else most[c] - positions[c]
            if left < reach:
                _own_row(r, c, sign, jacobian, pair)
                # As slow towards the stop as to reach it in this step.
                wanted[r], gap[r], soft[r] = min(0.0, -left) / h, left, 0.0
                lower[r], upper[r], which[r] = 0.0, np.inf, side * m + c
                x[r] = ties[(side + 1) * m + c]
                r += 1
    return r


@kernel
def _own_row(r, c, sign, jacobian, pair):
    """Row r is the velocity of one freedom."""
    for i in range(jacobian.shape[1]):
        jacobian[r, i] = 0.0
    jacobian[r, c] = sign
    pair[r, 0], pair[r, 1] = -1, -1


@kernel
def note_bounds(first, last, which, lower, x, before, v, time, h, ties, stop, work):
    """Keep the impulses x of bounded rows for the next step, and note what they did."""
    m = v.shape[0]
    for r in range(first, last):
        c = which[r] % m
        if lower[r] < 0.0:
            ties[c] = x[r]
            work[2] -= 0.5 * x[r] * (v[c] + before[c])
        else:
            side = which[r] // m
            ties[m + which[r]] = x[r]
            if x[r] > 0.0:
                stop[c, side] = min(stop[c, side], time)
                stop[c, 2] += h
                sign = 1.0 if side == 0 else -1.0
                work[3] -= 0.5 * sign * x[r] * (v[c] + before[c])
