"""Small dense symmetric positive definite systems, by Cholesky's factorisation.

For the sizes met here (tens of unknowns) plain loops are faster than a call to a library, and much
faster to compile.
"""

from __future__ import annotations

from math import sqrt

from mooring.compiling import kernel


@kernel
def factorise(a):
    """Replace the lower triangle of a (n, n) by L with a = L L^T.

    A pivot that is not positive, as of a matrix that is singular to rounding, becomes a tiny one.
    """
    n = a.shape[0]
    largest = 0.0
    for i in range(n):
        largest = max(largest, abs(a[i, i]))
    least = 1e-15 * largest + 1e-300
    for j in range(n):
        pivot = a[j, j]
        for k in range(j):
            pivot -= a[j, k] * a[j, k]
        pivot = sqrt(max(pivot, least))
        a[j, j] = pivot
        over = 1.0 / pivot
        for i in range(j + 1, n):
            value = a[i, j]
            for k in range(j):
                value -= a[i, k] * a[j, k]
            a[i, j] = value * over


@kernel
def solve_factorised(lower, x):
    """Replace x (n,) by the solution of L L^T y = x."""
    n = x.shape[0]
    for i in range(n):
        value = x[i]
        for k in range(i):
            value -= lower[i, k] * x[k]
        x[i] = value / lower[i, i]
    for i in range(n - 1, -1, -1):
        value = x[i]
        for k in range(i + 1, n):
            value -= lower[k, i] * x[k]
        x[i] = value / lower[i, i]
