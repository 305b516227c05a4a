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

import numpy as np

from mooring.compiling import entry
from mooring.dynamics.kernels.bodies import (
    ROW,
    gather_inertias,
    load_joints,
    mass_rows,
    move_bodies,
    place_bodies,
    weigh_bodies,
    weight_on_joints,
)
from mooring.simulation.contact.kernels.collect import (
    FULL,
    collect,
    new_contact_scratch,
    new_places,
    place_shapes,
)
from mooring.simulation.stepping.arrays import BY_MOTION
from mooring.simulation.stepping.kernels.bounds import bounded_rows, note_bounds
from mooring.simulation.stepping.kernels.drift import find_drift
from mooring.simulation.stepping.kernels.energy import kinetic_energy, potential_energy
from mooring.simulation.stepping.kernels.floating import (
    add_turning,
    find_loose,
    stand_still,
    turn_axes,
)
from mooring.simulation.stepping.kernels.motors import (
    demands,
    integrate_errors,
    note_efforts,
    resaturate,
)
from mooring.simulation.stepping.kernels.rows import copy, copy_row, dot_row
from mooring.simulation.stepping.kernels.sensing import any_due, measure
from mooring.simulation.stepping.kernels.solve import eliminate, put_in, restore, sweep
from mooring.simulation.stepping.kernels.system import build_system, velocity_of
from mooring.simulation.stepping.kernels.ties import loop_rows, new_frames, spring_row
from mooring.simulation.stepping.kernels.touching import (
    DEEP,
    contact_rows,
    keep_impulses,
    note_contacts,
    shift_contacts,
    warm,
)
from mooring.simulation.timeline.kernels.targets import targets_at
from mooring.tree.kernels.branches import factorise_branches, solve_lower, solve_upper
from mooring.tree.kernels.joints import joint_positions, move

# Relative softness that keeps equations solvable that repeat others, as those of flat loops do.
_SOFTNESS = 1e-11
_MOST_ROUNDS = 12
_POOR = 1e-3
"""Impulses that still change velocities by this much were not found [m/s or rad/s]."""
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
    frames = new_frames()
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
            weight_on_joints(tree, rows, motion, settings.gravity, weight)
        if any_loose:
            stand_still(tree, loose, weight, commands.push, motion, bias)
        gather_inertias(tree, rows)
        mass_rows(tree, rows, motion, matrix)

        # Equations: couplings, closures, bonds, then those with softness or a goal.
        e, own = loop_rows(
            tree, loops, bonds, rows, motion, positions, frames, jacobian, wrench, pair, gap
        )
        worst_gap = 0.0
        for r in range(own):
            worst_gap = max(worst_gap, abs(gap[r]))
        if worst_gap > watch.gap[0]:
            watch.gap[0], watch.gap[1] = worst_gap, time
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

            boxes = bounded_rows(
                joints.friction, joints.lower, joints.upper, positions, free, h, e, state.ties,
                jacobian, pair, wanted, soft, gap, lower, upper, which, x,
            )  # fmt: skip
            rows_used = boxes
            if round_ == 0:
                rows_used = contact_rows(
                    before, tip, motion, touch, touching, boxes, v, h, free, jacobian, wrench, pair,
                    wanted, soft, starts, sizes,
                )  # fmt: skip
                warm(touch, touching, loose, starts, sizes, wrench, x)
            else:
                rows_used = shift_contacts(
                    touching, starts, sizes, boxes, touch, before, tip, motion, v, h, free,
                    jacobian, wrench, pair, wanted, soft, x,
                )  # fmt: skip
            if rows_used == 0:
                copy(free, v)
            else:
                build_system(before, lower_half, rows_used, jacobian, half, a)
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
                velocity_of(before, lower_half, rows_used, half, x, v)
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
        state.work[0] += note_efforts(
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
        note_bounds(
            e, boxes, which, lower, x, start, v, time, h, state.ties, watch.stop, state.work
        )
        for r in range(boxes, rows_used):
            if x[r] != 0.0:
                state.work[3] -= (
                    0.5 * x[r] * (dot_row(jacobian, r, v) + dot_row(jacobian, r, start))
                )
        keep_impulses(
            contact.pairs, touch, touching, starts, wrench, jacobian, v, h, time, x, watch
        )
        integrate_errors(motors, commands, target, positions, v, h, state.saturated, state.integral)
        if recorded:
            copy_row(out.effort, row, state.effort)
            note_contacts(touch, touching, starts, wrench, x, h, k // settings.every, out)

        # Positions, with drift taken back.
        drift = rows_used > 0 and find_drift(
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
            velocity_of(before, lower_half, rows_used, half, shift, right)
            for c in range(m):
                rate[c] += right[c]
            for n in range(touching):
                depth = -touch.where[n, 6]
                if depth > DEEP:
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
