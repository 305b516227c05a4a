"""The system of a step: what rows have to do with each other, and what impulses do."""

from __future__ import annotations

from mooring.compiling import kernel
from mooring.tree.kernels.branches import solve_lower, solve_upper_row


@kernel
def build_system(before, lower, rows, jacobian, half, a):
    """half = L^-T J^T by rows, and a = J M^-1 J^T."""
    m = jacobian.shape[1]
    for r in range(rows):
        for c in range(m):
            half[r, c] = jacobian[r, c]
        solve_upper_row(before, lower, r, half)
    for r in range(rows):
        # Four products at a time: one alone would wait for each of its own additions.
        for s in range(0, r + 1, 4):
            t, u, w = min(s + 1, r), min(s + 2, r), min(s + 3, r)
            one, two, three, four = 0.0, 0.0, 0.0, 0.0
            for c in range(m):
                x = half[r, c]
                one += x * half[s, c]
                two += x * half[t, c]
                three += x * half[u, c]
                four += x * half[w, c]
            a[r, s], a[r, t], a[r, u], a[r, w] = one, two, three, four
        for s in range(r):
            a[s, r] = a[r, s]


@kernel
def velocity_of(before, lower, rows, half, x, v):
    """The velocity that impulses give."""
    for c in range(v.shape[0]):
        v[c] = 0.0
    for r in range(rows):
        if x[r] != 0.0:
            for c in range(v.shape[0]):
                v[c] += half[r, c] * x[r]
    solve_lower(before, lower, v)
