"""Rows of contacts, and what is kept of them from one step to the next."""

from __future__ import annotations

from math import sqrt

from mooring.compiling import kernel
from mooring.simulation.stepping.kernels.rows import contact_wrenches, dot_row, wrench_row

_BOUNCING = 0.01
"""Slower impacts do not bounce [m/s]."""
_RELAX = 0.98
"""Share of a loose body's friction that the next step begins with."""
DEEP = 1e-3
"""Overlaps deeper than this are noted [m]."""
_NEAR = 0.02
"""Contacts of two steps that are nearer are the same [m]."""


@kernel
def contact_rows(
    before, tip, motion, touch, touching, r, v, h, free, jacobian, wrench, pair, wanted, soft,
    starts, sizes,
):  # fmt: skip
    """Rows of all contacts from row r on; returns the row after the last."""
    where, bodies = touch.where, touch.which
    for n in range(touching):
        size = contact_wrenches(where, n, r, wrench)
        starts[n], sizes[n] = r, size
        for j in range(size):
            pair[r + j, 0], pair[r + j, 1] = bodies[n, 1], bodies[n, 2]
            wrench_row(before, tip, motion, bodies[n, 1], bodies[n, 2], wrench, r + j, jacobian)
            wanted[r + j], soft[r + j] = 0.0, 0.0
        wanted[r] = _parting(where, n, jacobian, r, v, free, h)
        r += size
    return r


@kernel
def _parting(where, n, jacobian, r, v, free, h):
    """How fast a contact must part at least: less than zero where there is a gap left to close."""
    gap = where[n, 6]
    coming = dot_row(jacobian, r, v)
    if where[n, 8] > 0.0 and coming < -_BOUNCING and gap + h * dot_row(jacobian, r, free) <= 0.0:
        return -where[n, 8] * coming
    return -max(0.0, gap) / h


@kernel
def shift_contacts(
    touching, starts, sizes, boxes, touch, before, tip, motion, v, h, free, jacobian, wrench, pair,
    wanted, soft, x,
):  # fmt: skip
    """Rows of contacts again, as stops ahead of them may have come or gone; impulses are kept."""
    if touching == 0:
        return boxes
    old = starts[0]
    last = starts[touching - 1] + sizes[touching - 1]
    end = contact_rows(
        before, tip, motion, touch, touching, boxes, v, h, free, jacobian, wrench, pair, wanted,
        soft, starts, sizes,
    )  # fmt: skip
    # Boxes move the contacts by a few rows; go from the end that is not overwritten.
    for k in range(last - old):
        r = k if boxes <= old else last - old - 1 - k
        x[boxes + r] = x[old + r]
    return end


@kernel
def warm(touch, touching, loose, starts, sizes, wrench, x):
    """Impulses to begin with: those of the step before, from contacts of the same pair nearby."""
    k = 0
    for n in range(touching):
        r = starts[n]
        for j in range(sizes[n]):
            x[r + j] = 0.0
        pair = touch.which[n, 0]
        while k < touch.before_used[0] and touch.before[k] < pair:
            k += 1
        best, nearest = -1, _NEAR * _NEAR
        m = k
        while m < touch.before_used[0] and touch.before[m] == pair:
            dx = touch.where[n, 0] - touch.impulses[m, 0]
            dy = touch.where[n, 1] - touch.impulses[m, 1]
            dz = touch.where[n, 2] - touch.impulses[m, 2]
            squared = dx * dx + dy * dy + dz * dz
            if squared < nearest:
                best, nearest = m, squared
            m += 1
        if best < 0:
            continue
        for j in range(3):
            x[r + j] = (
                wrench[r + j, 3] * touch.impulses[best, 3]
                + wrench[r + j, 4] * touch.impulses[best, 4]
                + wrench[r + j, 5] * touch.impulses[best, 5]
            )
        x[r] = max(0.0, x[r])
        one, other = touch.which[n, 1], touch.which[n, 2]
        if loose[other] or (one >= 0 and loose[one]):
            # What lies still need not go on pulling at itself.
            x[r + 1] *= _RELAX
            x[r + 2] *= _RELAX


@kernel
def keep_impulses(pairs, touch, touching, starts, wrench, jacobian, v, h, time, x, watch):
    """Remember the impulses for the next step, and note overlaps and slipping."""
    for n in range(touching):
        r = starts[n]
        touch.before[n] = touch.which[n, 0]
        for j in range(3):
            touch.impulses[n, j] = touch.where[n, j]
            touch.impulses[n, 3 + j] = (
                x[r] * wrench[r, 3 + j] + x[r + 1] * wrench[r + 1, 3 + j]
                + x[r + 2] * wrench[r + 2, 3 + j]
            )  # fmt: skip
        p = touch.which[n, 0]
        depth = -touch.where[n, 6]
        if depth > DEEP:
            watch.overlap[p, 0] = min(watch.overlap[p, 0], time)
            watch.overlap[p, 1] = max(watch.overlap[p, 1], depth)
            watch.overlap[p, 2] += h
        if x[r] > 0.0:
            u, s = dot_row(jacobian, r + 1, v), dot_row(jacobian, r + 2, v)
            way = h * sqrt(u * u + s * s)
            if way > 1e-3 * h:
                if p < pairs.shape[0]:
                    watch.slip[pairs[p, 0]] += way
                    watch.slip[pairs[p, 1]] += way
                else:
                    watch.slip[p - pairs.shape[0]] += way
    touch.before_used[0] = touching


@kernel
def note_contacts(touch, touching, starts, wrench, x, h, row, out):
    """Add the contacts that push to the recording, which has room for all of them."""
    used = out.contacts[0]
    for n in range(touching):
        r = starts[n]
        if x[r] <= 0.0:
            continue
        out.touching[used, 0], out.touching[used, 1] = row, touch.which[n, 0]
        out.touching[used, 2] = touch.which[n, 2]
        for j in range(3):
            out.force[used, j] = touch.where[n, j]
            out.force[used, 3 + j] = (
                x[r] * wrench[r, 3 + j] + x[r + 1] * wrench[r + 1, 3 + j]
                + x[r + 2] * wrench[r + 2, 3 + j]
            ) / h  # fmt: skip
        out.force[used, 6] = touch.where[n, 6]
        used += 1
    out.contacts[0] = used
