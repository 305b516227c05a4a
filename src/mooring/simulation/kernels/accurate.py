"""The accurate stepper: Runge-Kutta of order 4, for smooth motion of an open tree."""

from __future__ import annotations

import numpy as np

from mooring.compiling import entry, kernel
from mooring.dynamics.kernels.forward import forward_dynamics
from mooring.dynamics.kernels.mass_matrix import mass_matrix
from mooring.dynamics.kernels.work import new_work
from mooring.simulation.kernels.energy import kinetic_energy, potential_energy
from mooring.simulation.kernels.timeline import targets_at


@entry
def run(tree, joints, motors, timeline, gravity, step, first, count, every, state, out):
    """As `robust.run`, without loops, stops and dry friction."""
    n = state.q.shape[0]
    bodies = tree.parent.shape[0]
    work = new_work(bodies)
    scratch = np.empty((bodies, 8))
    matrix = np.zeros((n, n))
    tau = np.empty(n)
    target = np.empty(n)
    speed = np.empty(n)
    slopes_q = np.empty((4, n))
    slopes_v = np.empty((4, n))
    rates = np.empty((4, 2))
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
            targets_at(time + dt, timeline.starts, timeline.ends, timeline.points, target, speed)
            _efforts(joints, motors, at_q, at_v, target, speed, tau, effort, rates[stage])
            if stage == 0:
                state.effort[:] = effort
                if k % every == 0:
                    mass_matrix(tree, q, work, matrix)
                    _record(
                        tree, motors, gravity, time, matrix, target, state, work, out, k // every
                    )
            slopes_q[stage] = at_v
            forward_dynamics(tree, at_q, at_v, tau, gravity, work, scratch, slopes_v[stage])
        for stage in range(4):
            q += weights[stage] * step * slopes_q[stage]
            v += weights[stage] * step * slopes_v[stage]
            state.work[0] += weights[stage] * step * rates[stage, 0]
            state.work[1] += weights[stage] * step * rates[stage, 1]
        for i in range(n):
            if not abs(v[i]) < 1e8:
                return k - first
    return count


@kernel
def _efforts(joints, motors, q, v, target, speed, tau, effort, rates):
    """Efforts of motors and dampers at a state, and the power of both."""
    rates[:] = 0.0
    for i in range(q.shape[0]):
        tau[i] = -joints.damping[i] * v[i]
        rates[1] += joints.damping[i] * v[i] * v[i]
    for m in range(motors.coordinate.shape[0]):
        c = motors.coordinate[m]
        wanted = motors.p[m] * (target[c] - q[c]) + motors.d[m] * (speed[c] - v[c])
        effort[m] = min(motors.effort[m], max(-motors.effort[m], wanted))
        tau[c] += effort[m]
        rates[0] += effort[m] * v[c]


@kernel
def _record(tree, motors, gravity, time, matrix, target, state, work, out, row):
    out.time[row] = time
    out.position[row] = state.q
    out.velocity[row] = state.v
    for m in range(motors.coordinate.shape[0]):
        out.target[row, m] = target[motors.coordinate[m]]
        out.effort[row, m] = state.effort[m]
    out.energy[row, 0] = kinetic_energy(matrix, state.v)
    out.energy[row, 1] = potential_energy(tree, state.q, gravity, work.rotation, work.translation)
    out.energy[row, 2:5] = state.work
    out.gap[row] = 0.0
