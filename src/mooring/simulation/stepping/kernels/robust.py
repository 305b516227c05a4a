"""The robust stepper: velocities from one system a step, then positions from velocities.

Semi-implicit Euler. Damping, joint springs and motors are taken at the end of the step, so that
stiff ones cannot explode: they are added to the mass matrix, which keeps the sparsity of the tree
(Featherstone 2008, section 6.3). A motor that would exceed its effort pushes with just that, and
the step is taken again. Couplings, closures, bonds, springs between links and prescribed motions
are equations; joint friction, stops and contacts have bounds; all are solved together for impulses
(Moreau 1988; Stewart and Trinkle 1996). Soft equations stand for implicit springs (Baraff and
Witkin 1998).

What has drifted apart or into each other is put right by a motion of its own that leaves no
velocity behind (Cline and Pai 2003), so it adds no kinetic energy.
"""

from __future__ import annotations

from math import sqrt

import numpy as np

from mooring.compiling import entry, kernel
from mooring.dynamics.kernels.bodies import (
    ROW,
    gather_inertias,
    load_joints,
    mass_rows,
    move_bodies,
    place_bodies,
    weigh_bodies,
)
from mooring.simulation.contact.kernels.collect import (
    FULL,
    collect,
    new_contact_scratch,
    new_places,
    place_shapes,
)
from mooring.simulation.stepping.arrays import BY_MOTION
from mooring.simulation.stepping.kernels.energy import kinetic_energy, potential_energy
from mooring.simulation.stepping.kernels.floating import (
    add_turning,
    find_loose,
    stand_still,
    turn_axes,
)
from mooring.simulation.stepping.kernels.motors import demands, integrate_errors, resaturate
from mooring.simulation.stepping.kernels.rows import (
    contact_wrenches,
    copy,
    copy_row,
    dot_row,
    wrench_row,
)
from mooring.simulation.stepping.kernels.sensing import any_due, measure
from mooring.simulation.stepping.kernels.solve import eliminate, put_in, restore, sweep
from mooring.simulation.stepping.kernels.ties import (
    WELDED,
    body_frame,
    closure_rows,
    coupling_rows,
    own_frame,
    spring_row,
)
from mooring.simulation.timeline.kernels.targets import targets_at
from mooring.tree.kernels.branches import (
    factorise_branches,
    solve_lower,
    solve_upper,
    solve_upper_row,
)
from mooring.tree.kernels.joints import joint_positions, move

# Share of a loop's gap, or of the way beyond a stop or into each other, that one step takes back.
_CORRECTION = 0.2
_FASTEST_CORRECTION = 1.0
"""[m/s or rad/s]"""
_SLOP = 2e-5
"""Overlaps up to this are left alone [m]."""
# Relative softness that keeps equations solvable that repeat others, as those of flat loops do.
_SOFTNESS = 1e-11
_BOUNCING = 0.01
"""Slower impacts do not bounce [m/s]."""
_MOST_ROUNDS = 12
_RELAX = 0.98
"""Share of a loose body's friction that the next step begins with."""
_POOR = 1e-3
"""Impulses that still change velocities by this much were not found [m/s or rad/s]."""
_DEEP = 1e-3
"""Overlaps deeper than this are noted [m]."""
DONE, EXPLODED, TOO_MANY_CONTACTS = 0, 1, 2


@entry
def run(
    tree, loops, joints, springs, motors, commands, bonds, contact, sensors, timeline, settings,
    state, touch, watch, out, readings, first, count, first_row,
):  # fmt: skip
    """Take `count` steps from step number `first`.

    Row `first_row` of `out` is for the first recorded instant. Returns why it ended and the number
    of steps taken; the state is that at the end of the last of them.
    """
    before, tip = tree.before, tree.tip
    bodies, m = tree.parent.shape[0], state.v.shape[0]
    h = settings.step
    held = loops.held.sum()
    springy = springs.first.shape[0]
    ways = motors.freedom.shape[0]
    most_equations = loops.follower.shape[0] + held + springy + 6 * bonds.first.shape[0] + ways
    most_contacts = touch.which.shape[0]
    room = most_equations + 3 * m + 6 * most_contacts
    rows = np.zeros((bodies, ROW))
    motion = np.zeros((m, 6))
    matrix = np.zeros((m, m))
    lower_half = np.zeros((m, m))
    bias, weight, right, free, rate = (
        np.zeros(m),
        np.zeros(m),
        np.zeros(m),
        np.zeros(m),
        np.zeros(m),
    )
    start = np.zeros(m)
    still = np.zeros(m)
    positions = np.zeros(m)
    target, target_speed = np.zeros(m), np.zeros(m)
    base, fall = np.zeros(ways), np.zeros(ways)
    jacobian = np.zeros((room, m))
    half = np.zeros((room, m))
    wrench = np.zeros((room, 9))
    pair = np.full((room, 2), -1)
    gap = np.zeros(room)
    wanted, soft = np.zeros(room), np.zeros(room)
    lower, upper = np.zeros(room), np.zeros(room)
    which = np.zeros(room, dtype=np.int64)
    a = np.zeros((room, room))
    answer = np.zeros((room, max(1, most_equations)))
    b, x, w, shift = np.zeros(room), np.zeros(room), np.zeros(room), np.zeros(room)
    starts = np.zeros(most_contacts, dtype=np.int64)
    sizes = np.zeros(most_contacts, dtype=np.int64)
    smooth = np.zeros((most_contacts, 11))
    lengths = np.zeros(springy)
    outside = np.zeros((bodies, 6))
    frame_a, frame_b = np.zeros((3, 3)), np.zeros((3, 3))
    place_a, place_b = np.zeros(3), np.zeros(3)
    placed = new_places(contact.shapes.body.shape[0])
    scratch = new_contact_scratch()
    any_weightless = motors.weightless.sum() > 0
    loose = find_loose(tree)
    any_loose = loose.sum() > 0
    whole, momentum = np.zeros((6, 6)), np.zeros(6)
    for k in range(first, first + count):
        time = k * h
        q, v = state.q, state.v
        recorded = settings.every > 0 and k % settings.every == 0

        # Where everything is, and what moves it without any contact.
        place_bodies(tree, q, rows, motion)
        move_bodies(tree, v, still, settings.gravity, rows, motion)
        weigh_bodies(tree, rows)
        touching = 0
        if contact.pairs.shape[0] > 0 or contact.ground > 0:
            place_shapes(contact.shapes, rows, h, placed, touch.path)
            touching = collect(contact, touch, placed, h, scratch)
            if touching == FULL:
                return TOO_MANY_CONTACTS, k - first
        joint_positions(tree, q, positions)
        if recorded:
            row = k // settings.every - first_row
            out.time[row] = time
            copy_row(out.position, row, q)
            copy_row(out.velocity, row, v)
            copy_row(out.integral, row, state.integral)
            targets_at(timeline, time, target, target_speed)
            for j in range(ways):
                c = motors.freedom[j]
                out.target[row, j, 0] = commands.position[j] if commands.held[j] else target[c]
                out.target[row, j, 1] = (
                    commands.velocity[j] if commands.held[j] else target_speed[c]
                )
            out.energy[row, 0] = kinetic_energy(rows, tree.rotor, v)
            out.energy[row, 1] = potential_energy(rows, settings.gravity)
            for j in range(5):
                out.energy[row, 2 + j] = state.work[j]
        targets_at(timeline, time + h, target, target_speed)
        load_joints(tree, rows, motion, commands.push, bias)
        if any_weightless or any_loose:
            _weights(tree, rows, motion, settings.gravity, weight)
        if any_loose:
            stand_still(tree, loose, weight, commands.push, motion, bias)
        gather_inertias(tree, rows)
        mass_rows(tree, rows, motion, matrix)

        # Equations: couplings, closures, bonds, then those with softness or a goal.
        e = coupling_rows(loops, positions, 0, jacobian, gap)
        for j in range(loops.first.shape[0]):
            one, other = loops.first[j], loops.second[j]
            body_frame(rows, one, loops.frame_on_first, j, frame_a, place_a)
            body_frame(rows, other, loops.frame_on_second, j, frame_b, place_b)
            e = closure_rows(
                before, tip, motion, one, other, frame_a, place_a, frame_b, place_b, loops.held[j],
                e, jacobian, wrench, pair, gap,
            )  # fmt: skip
        worst_gap = 0.0
        for r in range(e):
            worst_gap = max(worst_gap, abs(gap[r]))
        if worst_gap > watch.gap[0]:
            watch.gap[0], watch.gap[1] = worst_gap, time
        for j in range(bonds.first.shape[0]):
            if bonds.closed[j]:
                one, other = bonds.first[j], bonds.second[j]
                body_frame(rows, one, bonds.frame, j, frame_a, place_a)
                own_frame(rows, other, frame_b, place_b)
                e = closure_rows(
                    before, tip, motion, one, other, frame_a, place_a, frame_b, place_b, WELDED, e,
                    jacobian, wrench, pair, gap,
                )  # fmt: skip
        drift_rows = e
        for r in range(e):
            wanted[r], soft[r] = 0.0, 0.0
        stored = 0.0
        for j in range(springy):
            lengths[j] = spring_row(
                before, tip, motion, rows, springs.first[j], springs.on_first[j], springs.second[j],
                springs.on_second[j], e, jacobian, wrench, pair,
            )  # fmt: skip
            way = lengths[j] - springs.length[j]
            stored += 0.5 * springs.stiffness[j] * way * way
            gain = springs.damping[j] + h * springs.stiffness[j]
            if gain > 0.0:
                wanted[e] = -springs.stiffness[j] * way / gain
                soft[e] = 1.0 / (h * gain)
                e += 1
        spring_end = e
        for j in range(ways):
            which[e] = j
            if motors.mode[j] == BY_MOTION:
                c = motors.freedom[j]
                for i in range(m):
                    jacobian[e, i] = 0.0
                jacobian[e, c] = 1.0
                goal = commands.position[j] if commands.held[j] else target[c]
                wanted[e], soft[e] = (goal - positions[c]) / h, 0.0
                pair[e, 0], pair[e, 1] = -1, -1
                e += 1
        for c in range(m):
            way = positions[c] - joints.rest[c]
            stored += 0.5 * joints.stiffness[c] * way * way
        if recorded:
            out.energy[row, 1] += stored
            out.gap[row] = worst_gap

        demands(
            motors, commands, target, target_speed, positions, h, weight, state.integral, base,
            fall,
        )  # fmt: skip
        copy(v, start)
        rows_used = 0
        boxes = 0
        for round_ in range(_MOST_ROUNDS):
            # The matrix with what grows with speed, and the push of everything else.
            for c in range(m):
                gain = joints.damping[c] + h * joints.stiffness[c]
                right[c] = h * (
                    -bias[c] - joints.stiffness[c] * (positions[c] - joints.rest[c]) - gain * v[c]
                )
                d = c
                while d >= 0:
                    lower_half[c, d] = matrix[c, d]
                    d = before[d]
                lower_half[c, c] += h * gain
            for j in range(ways):
                c = motors.freedom[j]
                if motors.mode[j] == BY_MOTION or watch.tripped[j] < np.inf:
                    continue
                if state.saturated[j] == 0:
                    lower_half[c, c] += h * fall[j]
                    right[c] += h * (base[j] - fall[j] * v[c])
                else:
                    right[c] += h * state.saturated[j] * motors.effort[j]
            factorise_branches(before, lower_half)
            solve_upper(before, lower_half, right)
            solve_lower(before, lower_half, right)
            for c in range(m):
                free[c] = v[c] + right[c]
            add_turning(tree, loose, v, h, free)

            # Bounded rows: friction in joints, then stops that may be reached.
            boxes = e
            for c in range(m):
                if joints.friction[c] > 0.0:
                    boxes = _own_row(boxes, c, 1.0, jacobian, pair)
                    r = boxes - 1
                    wanted[r], soft[r], which[r] = 0.0, 0.0, c
                    lower[r], upper[r] = -h * joints.friction[c], h * joints.friction[c]
                    x[r] = min(upper[r], max(lower[r], state.ties[c]))
            for c in range(m):
                reach = h * (2.0 * abs(free[c]) + 1.0)
                if positions[c] - joints.lower[c] < reach:
                    boxes = _own_row(boxes, c, 1.0, jacobian, pair)
                    r = boxes - 1
                    wanted[r] = min(0.0, joints.lower[c] - positions[c]) / h
                    gap[r] = positions[c] - joints.lower[c]
                    soft[r], lower[r], upper[r], which[r] = 0.0, 0.0, np.inf, c
                    x[r] = state.ties[m + c]
                if joints.upper[c] - positions[c] < reach:
                    boxes = _own_row(boxes, c, -1.0, jacobian, pair)
                    r = boxes - 1
                    wanted[r] = min(0.0, positions[c] - joints.upper[c]) / h
                    gap[r] = joints.upper[c] - positions[c]
                    soft[r], lower[r], upper[r], which[r] = 0.0, 0.0, np.inf, m + c
                    x[r] = state.ties[2 * m + c]
            rows_used = boxes
            if round_ == 0:
                rows_used = _contact_rows(
                    before, tip, motion, touch, touching, boxes, v, h, free, jacobian, wrench, pair,
                    wanted, soft, starts, sizes,
                )  # fmt: skip
                _warm(touch, touching, loose, starts, sizes, wrench, x)
            else:
                rows_used = _shift_contacts(
                    touching, starts, sizes, boxes, touch, before, tip, motion, v, h, free,
                    jacobian, wrench, pair, wanted, soft, x,
                )  # fmt: skip
            if rows_used == 0:
                copy(free, v)
            else:
                _build(before, lower_half, rows_used, jacobian, half, a)
                largest = 0.0
                for r in range(rows_used):
                    largest = max(largest, a[r, r])
                for r in range(rows_used):
                    a[r, r] += soft[r] + _SOFTNESS * largest
                    b[r] = dot_row(jacobian, r, free) - wanted[r]
                eliminate(a, e, rows_used, answer)
                put_in(a, b, e, rows_used)
                taken, left = 0, 0.0
                if rows_used > e:
                    taken, left = sweep(
                        a, b, e, boxes, rows_used, lower, upper, starts, touch.where,
                        touching, x, w, settings.most_sweeps, settings.accuracy,
                    )  # fmt: skip
                restore(b, e, rows_used, answer, x)
                _gain(before, lower_half, rows_used, half, x, v)
                for c in range(m):
                    v[c] += free[c]
                watch.sweeps[0] += taken
                watch.sweeps[1] = max(watch.sweeps[1], taken)
                if left > _POOR:
                    watch.sweeps[2] += 1.0
            if not resaturate(motors, base, fall, v, state.saturated) or round_ == _MOST_ROUNDS - 1:
                break
            # Once more from the start, with other motors at their limits.
            copy(start, v)

        # What happened.
        for c in range(m):
            if not abs(v[c]) < 1e8:
                watch.blow[0], watch.blow[1], watch.blow[2] = np.inf, time, c
                copy(start, v)
                return EXPLODED, k - first
            if abs(v[c]) > watch.blow[0]:
                watch.blow[0], watch.blow[1], watch.blow[2] = abs(v[c]), time, c
            state.a[c] = (v[c] - start[c]) / h
            middle = 0.5 * (v[c] + start[c])
            state.work[1] += h * joints.damping[c] * middle * v[c]
            state.ties[c], state.ties[m + c], state.ties[2 * m + c] = 0.0, 0.0, 0.0
        for i in range(bodies):
            c = tip[i]
            while c >= 0:
                for j in range(6):
                    if commands.push[i, j] != 0.0:
                        state.work[4] += (
                            0.5 * h * motion[c, j] * commands.push[i, j] * (v[c] + start[c])
                        )
                c = before[c]
        state.work[0] += _note_efforts(
            motors.freedom, motors.mode, motors.effort, motors.trips, base, fall, start, v,
            state.saturated, state.effort, watch.tripped, watch.saturated, time, h,
        )  # fmt: skip
        for r in range(drift_rows, spring_end):
            speed = dot_row(jacobian, r, v)
            s = 0
            passed = drift_rows
            for j in range(springy):
                if springs.damping[j] + h * springs.stiffness[j] > 0.0:
                    if passed == r:
                        s = j
                    passed += 1
            state.work[1] += h * springs.damping[s] * speed * speed
        for r in range(spring_end, e):
            j = which[r]
            state.effort[j] = x[r] / h
            c = motors.freedom[j]
            state.work[0] += 0.5 * x[r] * (v[c] + start[c])
        for r in range(e, boxes):
            c = which[r] % m
            if lower[r] < 0.0:
                state.ties[c] = x[r]
                state.work[2] -= 0.5 * x[r] * (v[c] + start[c])
            else:
                side = which[r] // m
                state.ties[m + which[r]] = x[r]
                if x[r] > 0.0:
                    watch.stop[c, side] = min(watch.stop[c, side], time)
                    watch.stop[c, 2] += h
                    sign = 1.0 if side == 0 else -1.0
                    state.work[3] -= 0.5 * sign * x[r] * (v[c] + start[c])
        for r in range(boxes, rows_used):
            if x[r] != 0.0:
                state.work[3] -= (
                    0.5 * x[r] * (dot_row(jacobian, r, v) + dot_row(jacobian, r, start))
                )
        _keep_impulses(
            contact.pairs, touch, touching, starts, wrench, jacobian, v, h, time, x, watch
        )
        integrate_errors(motors, commands, target, positions, v, h, state.saturated, state.integral)
        if recorded:
            copy_row(out.effort, row, state.effort)
            _note_contacts(touch, touching, starts, wrench, x, h, k // settings.every, out)

        # Positions, with drift taken back.
        drift = rows_used > 0 and _drift(
            e, drift_rows, boxes, rows_used, touching, gap, touch.where, starts, lower, upper, h,
            shift, x, b,
        )  # fmt: skip
        copy(v, rate)
        if drift:
            put_in(a, b, e, rows_used)
            if rows_used > e:
                sweep(
                    a, b, e, boxes, rows_used, lower, upper, starts, smooth, touching, shift,
                    w, 30, 1e-6,
                )  # fmt: skip
            restore(b, e, rows_used, answer, shift)
            _gain(before, lower_half, rows_used, half, shift, right)
            for c in range(m):
                rate[c] += right[c]
            for n in range(touching):
                depth = -touch.where[n, 6]
                if depth > _DEEP:
                    p = touch.which[n, 0]
                    watch.overlap[p, 3] += (
                        0.5 * shift[starts[n]] * max(0.0, dot_row(jacobian, starts[n], right))
                    )
        if any_due(sensors.rate, k):
            measure(
                tree, sensors, settings.gravity, state, start, k, h, rows, motion, rows_used,
                wrench, pair, x, starts, touching, commands.push, outside, bias, readings,
            )  # fmt: skip
        move(tree, q, rate, h)
        turn_axes(tree, loose, matrix, rate, h, whole, momentum, v)
    return DONE, count


@kernel
def _weights(tree, rows, motion, gravity, weight):
    """Efforts that hold the machine up; bodies are weighed and not yet gathered."""
    parent, before, tip = tree.parent, tree.before, tree.tip
    for c in range(weight.shape[0]):
        weight[c] = 0.0
    for i in range(parent.shape[0]):
        hx, hy, hz, mass = rows[i, 31], rows[i, 32], rows[i, 33], rows[i, 30]
        gx, gy, gz = -gravity[0], -gravity[1], -gravity[2]
        nx, ny, nz = hy * gz - hz * gy, hz * gx - hx * gz, hx * gy - hy * gx
        c = tip[i]
        while c >= 0:
            weight[c] += (
                motion[c, 0] * nx + motion[c, 1] * ny + motion[c, 2] * nz
                + mass * (motion[c, 3] * gx + motion[c, 4] * gy + motion[c, 5] * gz)
            )  # fmt: skip
            c = before[c]


@kernel
def _own_row(r, c, sign, jacobian, pair):
    """Row r is the velocity of one freedom; returns the next."""
    for i in range(jacobian.shape[1]):
        jacobian[r, i] = 0.0
    jacobian[r, c] = sign
    pair[r, 0], pair[r, 1] = -1, -1
    return r + 1


@kernel
def _contact_rows(
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
def _shift_contacts(
    touching, starts, sizes, boxes, touch, before, tip, motion, v, h, free, jacobian, wrench, pair,
    wanted, soft, x,
):  # fmt: skip
    """Rows of contacts again, as stops ahead of them may have come or gone; impulses are kept."""
    if touching == 0:
        return boxes
    old = starts[0]
    last = starts[touching - 1] + sizes[touching - 1]
    end = _contact_rows(
        before, tip, motion, touch, touching, boxes, v, h, free, jacobian, wrench, pair, wanted,
        soft, starts, sizes,
    )  # fmt: skip
    # Boxes move the contacts by a few rows; go from the end that is not overwritten.
    for k in range(last - old):
        r = k if boxes <= old else last - old - 1 - k
        x[boxes + r] = x[old + r]
    return end


@kernel
def _warm(touch, touching, loose, starts, sizes, wrench, x):
    """Impulses to begin with: those of the step before, from contacts of the same pair nearby."""
    k = 0
    for n in range(touching):
        r = starts[n]
        for j in range(sizes[n]):
            x[r + j] = 0.0
        pair = touch.which[n, 0]
        while k < touch.before_used[0] and touch.before[k] < pair:
            k += 1
        best, nearest = -1, 4e-4
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
def _build(before, lower, rows, jacobian, half, a):
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
def _gain(before, lower, rows, half, x, v):
    """The velocity that impulses give."""
    for c in range(v.shape[0]):
        v[c] = 0.0
    for r in range(rows):
        if x[r] != 0.0:
            for c in range(v.shape[0]):
                v[c] += half[r, c] * x[r]
    solve_lower(before, lower, v)


@kernel
def _note_efforts(
    freedom, mode, limit, trips, base, fall, before, v, saturated, efforts, tripped, noted, time, h,
):  # fmt: skip
    """What motors gave in the step; returns their work."""
    work = 0.0
    for j in range(freedom.shape[0]):
        if mode[j] == BY_MOTION:
            continue
        c = freedom[j]
        wanted = base[j] - fall[j] * v[c]
        effort = min(limit[j], max(-limit[j], wanted))
        if tripped[j] < np.inf:
            effort = 0.0
        efforts[j] = effort
        work += 0.5 * h * effort * (v[c] + before[c])
        if saturated[j] != 0:
            noted[j, 0] = min(noted[j, 0], time)
            noted[j, 1] += h
            noted[j, 2] = max(noted[j, 2], abs(wanted))
            if trips[j]:
                tripped[j] = min(tripped[j], time)
    return work


@kernel
def _keep_impulses(pairs, touch, touching, starts, wrench, jacobian, v, h, time, x, watch):
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
        if depth > _DEEP:
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
def _note_contacts(touch, touching, starts, wrench, x, h, row, out):
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


@kernel
def _drift(
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
