"""What takes drift back: gaps of loops, ways beyond stops, and overlaps."""

from __future__ import annotations

from mooring.compiling import kernel

# Share of a loop's gap, or of the way beyond a stop or into each other, that one step takes back.
_CORRECTION = 0.2
_FASTEST_CORRECTION = 1.0
"""[m/s or rad/s]"""
_SLOP = 2e-5
"""Overlaps up to this are left alone [m]."""


@kernel
def find_drift(
    e, drift_rows, boxes, rows, touching, gap, where, starts, lower, upper, h, shift, x, b,
):  # fmt: skip
    """Set up what takes drift back; returns whether there is any."""
    found = False
    for r in range(e):
        b[r] = 0.0
        if r < drift_rows:
            back = _CORRECTION * gap[r] / h
            b[r] = min(_FASTEST_CORRECTION, max(-_FASTEST_CORRECTION, back))
            found = found or abs(gap[r]) > 1e-12
    for r in range(e, rows):
        shift[r] = 0.0
        b[r] = 0.0
    for r in range(e, boxes):
        if lower[r] < 0.0:
            # Joint friction has no say in it.
            lower[r], upper[r] = 0.0, 0.0
        elif gap[r] < -1e-9:
            b[r] = max(-_FASTEST_CORRECTION, _CORRECTION * gap[r] / h)
            found = True
        else:
            b[r] = max(0.0, gap[r]) / h
    for n in range(touching):
        r = starts[n]
        over = where[n, 6] + _SLOP
        if over < 0.0:
            b[r] = max(-_FASTEST_CORRECTION, _CORRECTION * over / h)
            found = True
        elif x[r] <= 0.0:
            # Not touching: it may come as near as its gap.
            b[r] = over / h
    return found
