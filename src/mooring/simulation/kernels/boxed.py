"""Linear equations whose unknowns have bounds: the mixed complementarity problem of a time step."""

from __future__ import annotations

import numpy as np

from mooring.compiling import kernel
from mooring.tree.kernels.dense import factorise, solve_factorised

FREE, AT_LOWER, AT_UPPER = 0, 1, 2
_MOST_ROUNDS = 100
_BLOCK_ROUNDS = 10


@kernel
def solve_boxed(a, b, lower, upper, status, x):
    """Find x with lower <= x <= upper, and for w = a x + b: w = 0 where x is inside its bounds,
    w >= 0 where x is at its lower bound, w <= 0 where it is at its upper.

    Block principal pivoting (Judice and Pires 1994): guess which unknowns are at which bound, solve
    for the others, move all that contradict the guess; after too many rounds without progress move
    only the first (Murty's rule, which ends for symmetric positive definite a).

    Args:
        a: (n, n), symmetric positive definite.
        b: (n,).
        lower, upper: (n,), may be infinite.
        status: (n,) the guess to start from, FREE, AT_LOWER or AT_UPPER; the answer on return.
        x: (n,) the answer on return.

    Returns:
        Whether the answer is exact; else it is the best of the last round, within the bounds.
    """
    n = b.shape[0]
    w = np.empty(n)
    fewest, patience = n + 1, _BLOCK_ROUNDS
    for _ in range(_MOST_ROUNDS):
        _solve_free(a, b, lower, upper, status, x)
        for i in range(n):
            w[i] = b[i]
            for j in range(n):
                w[i] += a[i, j] * x[j]
        wrong = 0
        for i in range(n):
            if _right_status(i, x, w, lower, upper, status, a) != status[i]:
                wrong += 1
        if wrong == 0:
            return True
        if wrong < fewest:
            fewest, patience = wrong, _BLOCK_ROUNDS
        else:
            patience -= 1
        for i in range(n):
            right = _right_status(i, x, w, lower, upper, status, a)
            if right != status[i]:
                status[i] = right
                if patience < 0:
                    break
    for i in range(n):
        x[i] = min(upper[i], max(lower[i], x[i]))
    return False


@kernel
def _right_status(i, x, w, lower, upper, status, a):
    slack = 1e-12 * (1.0 + abs(x[i]))
    if status[i] == FREE:
        if x[i] < lower[i] - slack:
            return AT_LOWER
        if x[i] > upper[i] + slack:
            return AT_UPPER
        return FREE
    slack = 1e-13 * (1.0 + a[i, i] * abs(x[i]))
    if status[i] == AT_LOWER and w[i] < -slack:
        return FREE
    if status[i] == AT_UPPER and w[i] > slack:
        return FREE
    return status[i]


@kernel
def _solve_free(a, b, lower, upper, status, x):
    """Put the bound unknowns at their bounds and solve a x + b = 0 for the free ones."""
    n = b.shape[0]
    free = np.nonzero(status == FREE)[0]
    for i in range(n):
        if status[i] == AT_LOWER:
            x[i] = lower[i]
        elif status[i] == AT_UPPER:
            x[i] = upper[i]
    m = free.shape[0]
    if m == 0:
        return
    matrix = np.empty((m, m))
    right = np.empty(m)
    for r in range(m):
        i = free[r]
        right[r] = -b[i]
        for j in range(n):
            if status[j] != FREE:
                right[r] -= a[i, j] * x[j]
        for c in range(m):
            matrix[r, c] = a[i, free[c]]
    factorise(matrix)
    solve_factorised(matrix, right)
    for r in range(m):
        x[free[r]] = right[r]
