"""The impulses of a step: equations, bounded rows and contacts with Coulomb's cone, together.

Equations are solved directly and put into the others, which block Gauss-Seidel then goes over,
forwards and backwards, beginning with the impulses of the step before (Moreau 1988; Jean 1999,
"The non-smooth contact dynamics method"). A contact's friction is a disk whose radius is its
normal impulse times the coefficient: the real cone, and no pyramid.
"""

from __future__ import annotations

from math import sqrt

from mooring.compiling import kernel
from mooring.tree.kernels.dense import factorise, solve_factorised


@kernel
def eliminate(a, equations, rows, answer):
    """Put the first `equations` of a (rows, rows) into the others, in place.

    Afterwards a holds the Cholesky factor of the equations among themselves, what the others have
    to do with them as before, and the others among themselves with the equations kept. answer
    (rows, equations) gets, for each of the others, how the equations answer to it.
    """
    e = equations
    if e == 0:
        return
    factor = a[:e, :e]
    factorise(factor)
    for r in range(e, rows):
        column = answer[r, :e]
        for k in range(e):
            column[k] = a[r, k]
        solve_factorised(factor, column)
    for r in range(e, rows):
        for s in range(e, r + 1):
            total = 0.0
            for k in range(e):
                total += a[r, k] * answer[s, k]
            a[r, s] -= total
            if s != r:
                a[s, r] = a[r, s]


@kernel
def put_in(a, b, equations, rows):
    """The right side b (rows,) after `eliminate`, in place: what must come to zero."""
    if equations == 0:
        return
    solve_factorised(a[:equations, :equations], b[:equations])
    for r in range(equations, rows):
        for k in range(equations):
            b[r] -= a[r, k] * b[k]


@kernel
def restore(b, equations, rows, answer, x):
    """The unknowns x of the equations, once the others are known; b after `put_in`."""
    for k in range(equations):
        value = -b[k]
        for r in range(equations, rows):
            value -= answer[r, k] * x[r]
        x[k] = value


@kernel
def _push(a, r, first, last, change, w):
    """Let w follow a change of unknown r."""
    for s in range(first, last):
        w[s] += a[r, s] * change


@kernel
def sweep(
    a, b, first, boxes, last, lower, upper, starts, where, contacts, x, w, most, accuracy
):  # fmt: skip
    """Find the impulses x of bounded rows and contacts; returns the number of sweeps, and by how
    much the last of them still changed a velocity.

    Args:
        a, b: after `eliminate`; only rows from `first` to `last` count.
        boxes: the row after the last bounded one; contacts follow.
        lower, upper: of bounded rows.
        starts: the first row of each contact.
        where: friction of each contact, see `ContactState`.
        x: the impulses to begin with, and the answer.
        w: scratch.
        most: sweeps.
        accuracy: end when no impulse changes a velocity by more [m/s or rad/s].
    """
    for r in range(first, last):
        w[r] = b[r]
    for r in range(first, last):
        if x[r] != 0.0:
            _push(a, r, first, last, x[r], w)
    worst = 0.0
    for round_ in range(most):
        worst = 0.0
        for turn in range(first, boxes):
            r = turn if round_ % 2 == 0 else boxes - 1 - (turn - first)
            goal = min(upper[r], max(lower[r], x[r] - w[r] / a[r, r]))
            change = goal - x[r]
            if change != 0.0:
                x[r] = goal
                worst = max(worst, abs(change) * a[r, r])
                _push(a, r, first, last, change, w)
        for turn in range(contacts):
            c = turn if round_ % 2 == 0 else contacts - 1 - turn
            r = starts[c]
            goal = max(0.0, x[r] - w[r] / a[r, r])
            change = goal - x[r]
            if change != 0.0:
                x[r] = goal
                worst = max(worst, abs(change) * a[r, r])
                _push(a, r, first, last, change, w)
            worst = max(worst, _disk(a, r + 1, where[c, 7] * goal, first, last, x, w))
            size = 3
            if where[c, 10] > 0.0:
                s = r + size
                bound = where[c, 10] * goal
                change = min(bound, max(-bound, x[s] - w[s] / a[s, s])) - x[s]
                if change != 0.0:
                    x[s] += change
                    worst = max(worst, abs(change) * a[s, s])
                    _push(a, s, first, last, change, w)
                size += 1
            if where[c, 9] > 0.0:
                worst = max(worst, _disk(a, r + size, where[c, 9] * goal, first, last, x, w))
        if worst < accuracy:
            return round_ + 1, worst
    return most, worst


@kernel
def _disk(a, r, radius, first, last, x, w):
    """Bring the pair of impulses at row r to rest, or as near as a disk allows; returns by how much
    a velocity changed."""
    x0, x1 = x[r], x[r + 1]
    if radius <= 0.0:
        g0, g1 = 0.0, 0.0
    else:
        a00, a01, a11 = a[r, r], a[r, r + 1], a[r + 1, r + 1]
        over = 1.0 / (a00 * a11 - a01 * a01)
        g0 = x0 - over * (a11 * w[r] - a01 * w[r + 1])
        g1 = x1 - over * (a00 * w[r + 1] - a01 * w[r])
        length = sqrt(g0 * g0 + g1 * g1)
        if length > radius:
            # It slides: friction goes against the sliding, so scale both ways alike.
            most = 0.5 * (a00 + a11) + sqrt(0.25 * (a00 - a11) * (a00 - a11) + a01 * a01)
            g0, g1 = x0 - w[r] / most, x1 - w[r + 1] / most
            length = sqrt(g0 * g0 + g1 * g1)
            share = min(1.0, radius / length)
            g0, g1 = share * g0, share * g1
    change0, change1 = g0 - x0, g1 - x1
    x[r], x[r + 1] = g0, g1
    if change0 != 0.0:
        _push(a, r, first, last, change0, w)
    if change1 != 0.0:
        _push(a, r + 1, first, last, change1, w)
    return max(abs(change0) * a[r, r], abs(change1) * a[r + 1, r + 1])
