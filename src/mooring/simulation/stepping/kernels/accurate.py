"""The accurate stepper: Runge-Kutta of order 4, for smooth motion, open trees and loops alike.

Loops hold by accelerations that keep their equations (Featherstone 2008, section 8.2); after every
step positions and velocities are brought back onto them along the shortest way that the mass
matrix knows, which takes no more than rounding and the step's own error (Hairer and Wanner 1996,
section VII.2: projection).
"""

from __future__ import annotations

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
from mooring.dynamics.kernels.forward import ROW as LONG_ROW
from mooring.dynamics.kernels.forward import forward_dynamics
from mooring.simulation.stepping.arrays import BY_MOTION
from mooring.simulation.stepping.kernels.energy import kinetic_energy, potential_energy
from mooring.simulation.stepping.kernels.motors import demands
from mooring.simulation.stepping.kernels.robust import DONE, EXPLODED
from mooring.simulation.stepping.kernels.rows import copy, copy_row, dot_row
from mooring.simulation.stepping.kernels.sensing import any_due, measure
from mooring.simulation.stepping.kernels.ties import loop_rows, new_frames, spring_row
from mooring.simulation.timeline.kernels.targets import targets_at
from mooring.tree.kernels.branches import factorise_branches, solve_lower, solve_upper
from mooring.tree.kernels.dense import factorise, solve_factorised
from mooring.tree.kernels.joints import joint_positions, move, rates, unit_quaternions

_SOFTNESS = 1e-13
_MOST_PROJECTIONS = 6
_CLOSED = 1e-12


@entry
def run(
    tree, loops, joints, springs, motors, commands, bonds, sensors, timeline, settings, state,
    watch, out, readings, first, count, first_row,
):  # fmt: skip
    """As `robust.run`, without contact, stops and dry friction."""
    n, m = state.q.shape[0], state.v.shape[0]
    bodies = tree.parent.shape[0]
    h = settings.step
    ways, springy = motors.freedom.shape[0], springs.first.shape[0]
    prescribed = (motors.mode == BY_MOTION).sum()
    equations = loops.follower.shape[0] + loops.held.sum() + 6 * bonds.first.shape[0] + prescribed
    rows = np.zeros((bodies, ROW))
    long_rows = np.zeros((bodies, LONG_ROW))
    motion = np.zeros((m, 6))
    matrix = np.zeros((m, m))
    room = equations + 1
    system = (
        np.zeros((room, m)), np.zeros((room, m)), np.zeros((room, 9)), np.full((room, 2), -1),
        np.zeros(room), np.zeros((room, room)), np.zeros(room),
    )  # fmt: skip
    jacobian, half, wrench, pair, gap, a, x = system
    frames = new_frames()
    spring_system = (np.zeros((1, m)), np.zeros((1, 9)), np.full((1, 2), -1))
    bias, tau, still, weight = np.zeros(m), np.zeros(m), np.zeros(m), np.zeros(m)
    target, target_speed, target_rate = np.zeros(m), np.zeros(m), np.zeros(m)
    positions = np.zeros(m)
    base, fall, effort = np.zeros(ways), np.zeros(ways), np.zeros(ways)
    slopes_q, slopes_v = np.zeros((4, n)), np.zeros((4, m))
    power = np.zeros((4, 5))
    at_q, at_v = np.zeros(n), np.zeros(m)
    outside = np.zeros((bodies, 6))
    parts = (0.0, 0.5, 0.5, 1.0)
    weights = (1.0 / 6.0, 1.0 / 3.0, 1.0 / 3.0, 1.0 / 6.0)
    no_starts = np.zeros(0, dtype=np.int64)
    any_weightless = motors.weightless.sum() > 0
    for k in range(first, first + count):
        time = k * h
        q, v = state.q, state.v
        recorded = settings.every > 0 and k % settings.every == 0
        worst = 0.0
        if equations > prescribed:
            worst = _project(
                tree, loops, bonds, q, v, rows, motion, matrix, system, frames, positions
            )
        for stage in range(4):
            dt = parts[stage] * h
            copy(q, at_q)
            copy(v, at_v)
            if stage > 0:
                for i in range(n):
                    at_q[i] += dt * slopes_q[stage - 1, i]
                for c in range(m):
                    at_v[c] += dt * slopes_v[stage - 1, c]
                unit_quaternions(tree, at_q)
            targets_at(timeline, time + dt, target, target_speed)
            joint_positions(tree, at_q, positions)
            full = stage == 0 or equations > 0 or any_weightless or springy > 0
            if full:
                place_bodies(tree, at_q, rows, motion)
                move_bodies(tree, at_v, still, settings.gravity, rows, motion)
                weigh_bodies(tree, rows)
            if any_weightless:
                move_bodies(tree, still, still, settings.gravity, rows, motion)
                load_joints(tree, rows, motion, outside, weight)
                move_bodies(tree, at_v, still, settings.gravity, rows, motion)
            demands(
                motors, commands, target, target_speed, positions, 0.0, weight,
                state.integral, base, fall,
            )  # fmt: skip
            power[stage] = 0.0
            stored = _efforts(
                joints, motors, watch, positions, at_v, base, fall, tau, effort, power[stage]
            )
            for j in range(springy):
                stored += _pull(
                    tree, springs, j, rows, motion, spring_system, at_v, tau, power[stage]
                )
            _add_pushes(tree, commands.push, motion, at_v, tau, power[stage])
            if stage == 0:
                _note(motors, state, watch, base, fall, at_v, effort, time, h)
                if recorded:
                    row = k // settings.every - first_row
                    out.time[row] = time
                    copy_row(out.position, row, q)
                    copy_row(out.velocity, row, v)
                    copy_row(out.integral, row, state.integral)
                    out.energy[row, 0] = kinetic_energy(rows, tree.rotor, v)
                    out.energy[row, 1] = potential_energy(rows, settings.gravity) + stored
                    for j in range(5):
                        out.energy[row, 2 + j] = state.work[j]
                    out.gap[row] = worst
                    for j in range(ways):
                        c = motors.freedom[j]
                        held = commands.held[j]
                        out.target[row, j, 0] = commands.position[j] if held else target[c]
                        out.target[row, j, 1] = commands.velocity[j] if held else target_speed[c]
                    if worst > watch.gap[0]:
                        watch.gap[0], watch.gap[1] = worst, time
            rates(tree, at_q, at_v, slopes_q[stage])
            if equations == 0:
                forward_dynamics(
                    tree, at_q, at_v, tau, settings.gravity, long_rows, slopes_v[stage]
                )
            else:
                load_joints(tree, rows, motion, outside, bias)
                gather_inertias(tree, rows)
                mass_rows(tree, rows, motion, matrix)
                e = loop_rows(
                    tree, loops, bonds, rows, motion, positions, frames, jacobian, wrench, pair, gap
                )[0]
                for r in range(e):
                    x[r] = _rate(rows, wrench, pair, r) if pair[r, 1] >= 0 else 0.0
                _speeds(timeline, time + dt, target, target_rate, target_speed)
                for j in range(ways):
                    if motors.mode[j] == BY_MOTION:
                        c = motors.freedom[j]
                        for i in range(m):
                            jacobian[e, i] = 0.0
                        jacobian[e, c] = 1.0
                        pair[e, 0], pair[e, 1] = -1, -1
                        x[e] = -target_rate[c]
                        e += 1
                for c in range(m):
                    slopes_v[stage, c] = tau[c] - bias[c]
                _accelerate(tree.before, matrix, e, jacobian, half, a, x, slopes_v[stage])
                e -= prescribed
                for j in range(ways):
                    if motors.mode[j] == BY_MOTION:
                        power[stage, 0] += x[e] * at_v[motors.freedom[j]]
                        if stage == 0:
                            state.effort[j] = x[e]
                        e += 1
            if stage == 0:
                if recorded:
                    copy_row(out.effort, row, state.effort)
                copy(slopes_v[0], state.a)
                if any_due(sensors.rate, k):
                    for r in range(equations):
                        x[r] *= h
                    measure(
                        tree, sensors, settings.gravity, state, v, k, h, rows, motion, equations,
                        wrench, pair, x, no_starts, 0, commands.push, outside, bias, readings,
                    )  # fmt: skip
                    outside[:, :] = 0.0
        for stage in range(4):
            share = weights[stage] * h
            for i in range(n):
                q[i] += share * slopes_q[stage, i]
            for c in range(m):
                v[c] += share * slopes_v[stage, c]
            for j in range(5):
                state.work[j] += share * power[stage, j]
        unit_quaternions(tree, q)
        for j in range(ways):
            if motors.i[j] > 0.0:
                c = motors.freedom[j]
                goal = commands.position[j] if commands.held[j] else target[c]
                state.integral[j] += h * (goal - positions[c])
        for c in range(m):
            if not abs(v[c]) < 1e8:
                watch.blow[0], watch.blow[1], watch.blow[2] = np.inf, time, c
                return EXPLODED, k - first
            if abs(v[c]) > watch.blow[0]:
                watch.blow[0], watch.blow[1], watch.blow[2] = abs(v[c]), time, c
    return DONE, count


@kernel
def _efforts(joints, motors, watch, positions, v, base, fall, tau, effort, power):
    """Efforts of motors, dampers and joint springs, and the power of the first two; returns the
    energy that the springs hold."""
    stored = 0.0
    for c in range(v.shape[0]):
        way = positions[c] - joints.rest[c]
        tau[c] = -joints.damping[c] * v[c] - joints.stiffness[c] * way
        power[1] += joints.damping[c] * v[c] * v[c]
        stored += 0.5 * joints.stiffness[c] * way * way
    for j in range(motors.freedom.shape[0]):
        c = motors.freedom[j]
        if motors.mode[j] == BY_MOTION or watch.tripped[j] < np.inf:
            effort[j] = 0.0
            continue
        effort[j] = min(motors.effort[j], max(-motors.effort[j], base[j] - fall[j] * v[c]))
        tau[c] += effort[j]
        power[0] += effort[j] * v[c]
    return stored


@kernel
def _pull(tree, springs, j, rows, motion, system, v, tau, power):
    """Add a spring between two bodies; returns the energy that it holds."""
    jacobian, wrench, pair = system
    length = spring_row(
        tree.before, tree.tip, motion, rows, springs.first[j], springs.on_first[j],
        springs.second[j], springs.on_second[j], 0, jacobian, wrench, pair,
    )  # fmt: skip
    way, speed = length - springs.length[j], dot_row(jacobian, 0, v)
    force = -springs.stiffness[j] * way - springs.damping[j] * speed
    for c in range(v.shape[0]):
        tau[c] += force * jacobian[0, c]
    power[1] += springs.damping[j] * speed * speed
    return 0.5 * springs.stiffness[j] * way * way


@kernel
def _add_pushes(tree, push, motion, v, tau, power):
    for i in range(push.shape[0]):
        for j in range(6):
            if push[i, j] != 0.0:
                c = tree.tip[i]
                while c >= 0:
                    tau[c] += motion[c, j] * push[i, j]
                    power[4] += motion[c, j] * push[i, j] * v[c]
                    c = tree.before[c]


@kernel
def _note(motors, state, watch, base, fall, v, effort, time, h):
    for j in range(effort.shape[0]):
        if motors.mode[j] == BY_MOTION:
            continue
        state.effort[j] = effort[j]
        wanted = abs(base[j] - fall[j] * v[motors.freedom[j]])
        if wanted >= motors.effort[j]:
            watch.saturated[j, 0] = min(watch.saturated[j, 0], time)
            watch.saturated[j, 1] += h
            watch.saturated[j, 2] = max(watch.saturated[j, 2], wanted)
            if motors.trips[j]:
                watch.tripped[j] = min(watch.tripped[j], time)


@kernel
def _rate(rows, wrench, pair, r):
    """How fast row r of a closure speeds up by the bodies' velocities alone."""
    one, other = pair[r, 0], pair[r, 1]
    nx, ny, nz, fx, fy, fz = (
        wrench[r, 0], wrench[r, 1], wrench[r, 2], wrench[r, 3], wrench[r, 4], wrench[r, 5],
    )  # fmt: skip
    wx, wy, wz = rows[one, 12], rows[one, 13], rows[one, 14]
    total = 0.0
    # The wrench times the difference of the bodies' spatial accelerations ...
    for side in range(2):
        i = other if side == 0 else one
        sign = 1.0 if side == 0 else -1.0
        total += sign * (
            nx * rows[i, 18] + ny * rows[i, 19] + nz * rows[i, 20] + fx * rows[i, 21]
            + fy * rows[i, 22] + fz * rows[i, 23]
        )  # fmt: skip
    # ... and the change of the wrench, carried along by the first body and, for a force, by the
    # point on the second that it goes through.
    dwx, dwy, dwz = rows[other, 12] - wx, rows[other, 13] - wy, rows[other, 14] - wz
    dlx = rows[other, 15] - rows[one, 15]
    dly = rows[other, 16] - rows[one, 16]
    dlz = rows[other, 17] - rows[one, 17]
    gx, gy, gz = wy * fz - wz * fy, wz * fx - wx * fz, wx * fy - wy * fx
    if fx == 0.0 and fy == 0.0 and fz == 0.0:
        mx, my, mz = wy * nz - wz * ny, wz * nx - wx * nz, wx * ny - wy * nx
    else:
        # The moment is p x f, where p goes with the second body.
        px, py, pz = wrench[r, 6], wrench[r, 7], wrench[r, 8]
        vx = rows[other, 15] + rows[other, 13] * pz - rows[other, 14] * py
        vy = rows[other, 16] + rows[other, 14] * px - rows[other, 12] * pz
        vz = rows[other, 17] + rows[other, 12] * py - rows[other, 13] * px
        mx = py * gz - pz * gy + vy * fz - vz * fy
        my = pz * gx - px * gz + vz * fx - vx * fz
        mz = px * gy - py * gx + vx * fy - vy * fx
    return total + mx * dwx + my * dwy + mz * dwz + gx * dlx + gy * dly + gz * dlz


@kernel
def _speeds(timeline, time, scratch, rate, speed):
    """How fast target speeds change, by a central difference."""
    span = 1e-5
    targets_at(timeline, time + span, scratch, rate)
    targets_at(timeline, time - span, scratch, speed)
    for c in range(rate.shape[0]):
        rate[c] = (rate[c] - speed[c]) / (2.0 * span)


@kernel
def _accelerate(before, matrix, e, jacobian, half, a, x, push):
    """From efforts (m,) in `push` to accelerations that keep equations, in place. x (e,) is what
    the equations speed up by themselves; it becomes their efforts. The matrix is factorised."""
    m = push.shape[0]
    factorise_branches(before, matrix)
    solve_upper(before, matrix, push)
    for r in range(e):
        for c in range(m):
            half[r, c] = jacobian[r, c]
        solve_upper(before, matrix, half[r])
    largest = 0.0
    for r in range(e):
        for s in range(r + 1):
            total = 0.0
            for c in range(m):
                total += half[r, c] * half[s, c]
            a[r, s] = total
        largest = max(largest, a[r, r])
    for r in range(e):
        a[r, r] += _SOFTNESS * largest
        value = -x[r]
        for c in range(m):
            value -= half[r, c] * push[c]
        x[r] = value
    if e > 0:
        factorise(a[:e, :e])
        solve_factorised(a[:e, :e], x[:e])
    for r in range(e):
        for c in range(m):
            push[c] += half[r, c] * x[r]
    solve_lower(before, matrix, push)


@kernel
def _project(tree, loops, bonds, q, v, rows, motion, matrix, system, frames, positions):
    """Bring positions and velocities onto the loops; returns the gap that was there."""
    jacobian, half, wrench, pair, gap, a, x = system
    m = v.shape[0]
    step = np.zeros(m)
    found = 0.0
    for round_ in range(_MOST_PROJECTIONS):
        place_bodies(tree, q, rows, motion)
        weigh_bodies(tree, rows)
        gather_inertias(tree, rows)
        mass_rows(tree, rows, motion, matrix)
        joint_positions(tree, q, positions)
        e = loop_rows(
            tree, loops, bonds, rows, motion, positions, frames, jacobian, wrench, pair, gap
        )[0]
        worst = 0.0
        for r in range(e):
            worst = max(worst, abs(gap[r]))
        if round_ == 0:
            found = worst
        last = worst < _CLOSED or round_ == _MOST_PROJECTIONS - 1
        for c in range(m):
            step[c] = 0.0
        for r in range(e):
            x[r] = dot_row(jacobian, r, v) if last else gap[r]
        _accelerate(tree.before, matrix, e, jacobian, half, a, x, step)
        if last:
            for c in range(m):
                v[c] += step[c]
            break
        move(tree, q, step, 1.0)
    return found
