"""Systems as sparse as the tree: a freedom meets only those before and after it on its branch.

With the branch-induced sparsity of the mass matrix, H = L^T L with a lower triangular L fills in
nothing (Featherstone 2008, section 6.3 and appendix: "LTL factorisation"). Only lower triangles are
read and written; what freedoms of different branches share is never looked at.
"""

from __future__ import annotations

from math import sqrt

from mooring.compiling import kernel


@kernel
def factorise_branches(before, h):
    """Replace the lower triangle of h (m, m) by L.

    A pivot that is not positive, as of freedoms that move no mass, becomes a tiny one.
    """
    for k in range(h.shape[0] - 1, -1, -1):
        pivot = sqrt(max(h[k, k], 1e-14))
        h[k, k] = pivot
        over = 1.0 / pivot
        i = before[k]
        while i >= 0:
            h[k, i] *= over
            i = before[i]
        i = before[k]
        while i >= 0:
            value = h[k, i]
            j = i
            while j >= 0:
                h[i, j] -= value * h[k, j]
                j = before[j]
            i = before[i]


@kernel
def solve_upper(before, lower, x):
    """Replace x (m,) by L^-T x."""
    for i in range(x.shape[0] - 1, -1, -1):
        if x[i] == 0.0:
            continue
        value = x[i] / lower[i, i]
        x[i] = value
        j = before[i]
        while j >= 0:
            x[j] -= lower[i, j] * value
            j = before[j]


@kernel
def solve_upper_row(before, lower, r, x):
    """Replace row r of x (rows, m) by L^-T x[r]."""
    for i in range(x.shape[1] - 1, -1, -1):
        if x[r, i] == 0.0:
            continue
        value = x[r, i] / lower[i, i]
        x[r, i] = value
        j = before[i]
        while j >= 0:
            x[r, j] -= lower[i, j] * value
            j = before[j]


@kernel
def solve_lower(before, lower, x):
    """Replace x (m,) by L^-1 x."""
    for i in range(x.shape[0]):
        value = x[i]
        j = before[i]
        while j >= 0:
            value -= lower[i, j] * x[j]
            j = before[j]
        x[i] = value / lower[i, i]
