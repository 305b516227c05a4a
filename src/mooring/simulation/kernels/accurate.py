"""The accurate stepper: Runge-Kutta of order 4, for smooth motion of an open tree."""

from __future__ import annotations

import numpy as np

from mooring.compiling import entry, kernel
from mooring.dynamics.kernels.forward import ROW, forward_dynamics
from mooring.dynamics.kernels.mass_matrix import mass_matrix
from mooring.dynamics.kernels.springs import add_pull, spring_rows, stored_energy
from mooring.dynamics.kernels.work import new_work
from mooring.simulation.kernels.energy import kinetic_energy, potential_energy
from mooring.simulation.kernels.timeline import targets_at
from mooring.tree.kernels.joints import joint_positions, rates, unit_quaternions


@entry
def run(tree, joints, springs, motors, timeline, gravity, step, first, count, every, state, out):
    """As `robust.run`, without loops, stops and dry friction."""
    n, m = state.q.shape[0], state.v.shape[0]
    bodies = tree.parent.shape[0]
    work = new_work(bodies)
    scratch = np.empty((bodies, ROW))
    matrix = np.zeros((m, m))
    tau = np.empty(m)
    target = np.empty(m)
    speed = np.empty(m)
    positions = np.empty(m)
    lengths = np.empty(springs.first.shape[0])
    rows = np.zeros((springs.first.shape[0], m))
    slopes_q = np.empty((4, n))
    slopes_v = np.empty((4, m))
    lost = np.empty((4, 2))
    effort = state.effort.copy()
    parts = (0.0, 0.5, 0.5, 1.0)
    weights = (1.0 / 6.0, 1.0 / 3.0, 1.0 / 3.0, 1.0 / 6.0)
    for k in range(first, first + count):
        time = k * step
        q, v = state.q, state.v
        for stage in range(4):
            dt = parts[stage] * step
            at_q, at_v = q.copy(), v.copy()
            if stage > 0:
                at_q += dt * slopes_q[stage - 1]
                at_v += dt * slopes_v[stage - 1]
                unit_quaternions(tree, at_q)
            targets_at(time + dt, timeline.starts, timeline.ends, timeline.points, target, speed)
            joint_positions(tree, at_q, positions)
            spring_rows(tree, springs, at_q, lengths, rows)
            _efforts(
                joints, motors, state, positions, at_v, target, speed, tau, effort, lost[stage]
            )
            add_pull(joints, springs, positions, lengths, rows, tau)
            _damp_springs(springs, rows, at_v, tau, lost[stage])
            if stage == 0:
                for j in range(effort.shape[0]):
                    if motors.trips[j] and abs(effort[j]) >= motors.effort[j]:
                        state.tripped[j] = min(state.tripped[j], time)
                state.effort[:] = effort
                if k % every == 0:
                    mass_matrix(tree, q, work, matrix)
                    row = k // every
                    _record(tree, motors, gravity, time, matrix, target, state, work, out, row)
                    out.energy[row, 1] += stored_energy(joints, springs, positions, lengths)
            rates(tree, at_q, at_v, slopes_q[stage])
            forward_dynamics(tree, at_q, at_v, tau, gravity, scratch, slopes_v[stage])
        for stage in range(4):
            q += weights[stage] * step * slopes_q[stage]
            v += weights[stage] * step * slopes_v[stage]
            state.work[0] += weights[stage] * step * lost[stage, 0]
            state.work[1] += weights[stage] * step * lost[stage, 1]
        unit_quaternions(tree, q)
        for i in range(m):
            if not abs(v[i]) < 1e8:
                return k - first
    return count


@kernel
def _efforts(joints, motors, state, positions, v, target, speed, tau, effort, lost):
    """Efforts of motors and dampers at a state, and the power of both."""
    lost[:] = 0.0
    for i in range(v.shape[0]):
        tau[i] = -joints.damping[i] * v[i]
        lost[1] += joints.damping[i] * v[i] * v[i]
    for m in range(motors.freedom.shape[0]):
        c = motors.freedom[m]
        wanted = motors.p[m] * (target[c] - positions[c]) + motors.d[m] * (speed[c] - v[c])
        if state.tripped[m] < np.inf:
            wanted = 0.0
        effort[m] = min(motors.effort[m], max(-motors.effort[m], wanted))
        tau[c] += effort[m]
        lost[0] += effort[m] * v[c]


@kernel
def _damp_springs(springs, rows, v, tau, lost):
    for s in range(rows.shape[0]):
        speed = 0.0
        for c in range(v.shape[0]):
            speed += rows[s, c] * v[c]
        for c in range(v.shape[0]):
            tau[c] -= springs.damping[s] * speed * rows[s, c]
        lost[1] += springs.damping[s] * speed * speed


@kernel
def _record(tree, motors, gravity, time, matrix, target, state, work, out, row):
    out.time[row] = time
    out.position[row] = state.q
    out.velocity[row] = state.v
    for m in range(motors.freedom.shape[0]):
        out.target[row, m] = target[motors.freedom[m]]
        out.effort[row, m] = state.effort[m]
    out.energy[row, 0] = kinetic_energy(matrix, state.v)
    out.energy[row, 1] = potential_energy(tree, state.q, gravity, work.rotation, work.translation)
    out.energy[row, 2:5] = state.work
    out.gap[row] = 0.0
