"""The robust stepper: velocities from one bounded system a step, then positions from velocities.

Semi-implicit Euler. Damping and motors are taken at the end of the step, so that stiff ones cannot
explode; a motor is a soft equation on its joint's velocity whose impulse is bounded by its effort
limit; dry friction is an equation for standstill with a bounded impulse; a stop is an inequality;
couplings and closures are equations. All are solved together (the formulation of soft constraints
by implicit springs follows Baraff and Witkin 1998 and Catto, "Soft Constraints", 2011).
"""

from __future__ import annotations

import numpy as np

from mooring.compiling import entry, kernel
from mooring.dynamics.kernels.inverse import inverse_dynamics
from mooring.dynamics.kernels.mass_matrix import mass_matrix
from mooring.dynamics.kernels.springs import add_pull, spring_rows, stored_energy
from mooring.dynamics.kernels.work import new_work
from mooring.kinematics.kernels.closing import loop_count, loop_equations
from mooring.simulation.kernels.boxed import AT_LOWER, FREE, solve_boxed
from mooring.simulation.kernels.energy import kinetic_energy, potential_energy
from mooring.simulation.kernels.timeline import targets_at
from mooring.tree.kernels.dense import apply_matrix, factorise, invert_factorised
from mooring.tree.kernels.joints import joint_positions, move

# Share of a loop's gap, or of the way beyond a stop, that one step takes back.
_CORRECTION = 0.2
# Relative softness that keeps equations solvable that repeat others or hold by themselves, as three
# of a flat hinge loop's five do.
_SOFTNESS = 1e-11


@entry
def run(
    tree, loops, joints, springs, motors, timeline, gravity, step, first, count, every, state, out
):
    """Take `count` steps from step number `first`, recording every `every`-th instant.

    The rows of the bounded system, whose guesses `state.status` keeps: the equations of the loops,
    one row a motor, then for each freedom its friction, then its lower stops, its upper stops.

    Returns the number of steps taken; fewer than `count` when the state stopped being finite.
    """
    n = state.v.shape[0]
    loop_rows = loop_count(loops)
    lengths = np.empty(springs.first.shape[0])
    along = np.zeros((springs.first.shape[0], n))
    positions = np.empty(n)
    pull = np.empty(n)
    rows = state.status.shape[0]
    work = new_work(tree.parent.shape[0])
    matrix = np.zeros((n, n))
    stiff = np.zeros((n, n))
    bias = np.zeros(n)
    zero = np.zeros(n)
    gap = np.zeros(loop_rows)
    j = np.zeros((rows, n))
    target = np.empty(n)
    target_speed = np.empty(n)
    for k in range(first, first + count):
        time = k * step
        targets_at(
            time + step, timeline.starts, timeline.ends, timeline.points, target, target_speed
        )
        q, v = state.q, state.v
        mass_matrix(tree, q, work, matrix)
        inverse_dynamics(tree, q, v, zero, gravity, work, bias)
        loop_equations(tree, loops, q, gap, j[:loop_rows])
        joint_positions(tree, q, positions)
        spring_rows(tree, springs, q, lengths, along)
        pull[:] = 0.0
        add_pull(joints, springs, positions, lengths, along, pull)
        bias -= pull
        if k % every == 0:
            _record(
                tree,
                motors,
                timeline,
                gravity,
                time,
                matrix,
                gap,
                state,
                work,
                out,
                k // every,
            )
            held = stored_energy(joints, springs, positions, lengths)
            out.energy[k // every, 1] += held
        _soften(joints, springs, along, step, matrix, stiff)
        _step(
            joints, motors, step, time, target, target_speed, matrix, stiff, bias, positions, gap,
            j, state,
        )  # fmt: skip
        _note_loss(joints, springs, along, step, state)
        if k % every == 0:
            # The efforts of the step that begins at the recorded instant.
            out.effort[k // every] = state.effort
        for i in range(n):
            if not abs(v[i]) < 1e8:
                return k - first
        move(tree, q, v, step)
    return count


@kernel
def _soften(joints, springs, along, h, matrix, stiff):
    """The mass matrix with what springs and dampers do by the end of a step added to it."""
    stiff[:, :] = matrix
    for i in range(matrix.shape[0]):
        stiff[i, i] += h * (joints.damping[i] + h * joints.stiffness[i])
    for s in range(along.shape[0]):
        gain = h * (springs.damping[s] + h * springs.stiffness[s])
        for i in range(matrix.shape[0]):
            for k in range(matrix.shape[0]):
                stiff[i, k] += gain * along[s, i] * along[s, k]


@kernel
def _note_loss(joints, springs, along, h, state):
    """What dampers took in the step."""
    for i in range(state.v.shape[0]):
        state.work[1] += h * joints.damping[i] * state.v[i] * state.v[i]
    for s in range(along.shape[0]):
        speed = 0.0
        for i in range(state.v.shape[0]):
            speed += along[s, i] * state.v[i]
        state.work[1] += h * springs.damping[s] * speed * speed


@kernel
def _step(
    joints, motors, h, time, target, target_speed, matrix, stiff, bias, q, gap, j, state
):  # fmt: skip
    """Velocities at the end of the step, in place; q are the positions of the freedoms."""
    v = state.v
    n = v.shape[0]
    loop_rows = gap.shape[0]
    count = motors.freedom.shape[0]
    rows = j.shape[0]
    damped = stiff.copy()
    momentum = np.empty(n)
    apply_matrix(matrix, v, momentum)
    for i in range(n):
        momentum[i] -= h * bias[i]
    factorise(damped)
    inverse = np.empty((n, n))
    invert_factorised(damped, inverse)
    free = np.empty(n)
    apply_matrix(inverse, momentum, free)

    wanted = np.zeros(rows)
    soft = np.zeros(rows)
    lower = np.full(rows, -np.inf)
    upper = np.full(rows, np.inf)
    active = np.ones(rows, dtype=np.bool_)
    j[loop_rows:] = 0.0
    for r in range(loop_rows):
        wanted[r] = -_CORRECTION * gap[r] / h
    for m in range(count):
        r, c = loop_rows + m, motors.freedom[m]
        j[r, c] = 1.0
        gain = h * motors.p[m] + motors.d[m]
        if gain <= 0.0 or state.tripped[m] < np.inf:
            active[r] = False
            continue
        wanted[r] = (motors.p[m] * (target[c] - q[c]) + motors.d[m] * target_speed[c]) / gain
        soft[r] = 1.0 / (h * gain)
        lower[r], upper[r] = -h * motors.effort[m], h * motors.effort[m]
    base = loop_rows + count
    for c in range(n):
        r = base + c
        j[r, c] = 1.0
        lower[r], upper[r] = -h * joints.friction[c], h * joints.friction[c]
        active[r] = joints.friction[c] > 0.0
        r = base + n + c
        j[r, c] = 1.0
        lower[r] = 0.0
        wanted[r] = _way_to_stop(joints.lower[c] - q[c], h)
        active[r] = np.isfinite(joints.lower[c]) and free[c] < wanted[r] + _near(free[c])
        r = base + 2 * n + c
        j[r, c] = -1.0
        lower[r] = 0.0
        wanted[r] = _way_to_stop(q[c] - joints.upper[c], h)
        active[r] = np.isfinite(joints.upper[c]) and -free[c] < wanted[r] + _near(free[c])

    state.effort[:] = 0.0
    chosen = np.nonzero(active)[0]
    size = chosen.shape[0]
    if size == 0:
        v[:] = free
        return
    answer = np.empty((size, n))
    a = np.empty((size, size))
    b = np.empty(size)
    for r in range(size):
        apply_matrix(inverse, j[chosen[r]], answer[r])
        b[r] = -wanted[chosen[r]]
        for i in range(n):
            b[r] += j[chosen[r], i] * free[i]
    for r in range(size):
        for t in range(size):
            total = 0.0
            for i in range(n):
                total += j[chosen[r], i] * answer[t, i]
            a[r, t] = total
    largest = 0.0
    for r in range(size):
        largest = max(largest, a[r, r])
    low, high, guess = np.empty(size), np.empty(size), np.empty(size, dtype=np.int64)
    for r in range(size):
        k = chosen[r]
        a[r, r] += soft[k] + _SOFTNESS * largest
        low[r], high[r], guess[r] = lower[k], upper[k], state.status[k]
    impulse = np.zeros(size)
    solve_boxed(a, b, low, high, guess, impulse)
    v[:] = free
    for r in range(size):
        for i in range(n):
            v[i] += answer[r, i] * impulse[r]

    state.status[base + n :] = AT_LOWER
    for r in range(size):
        k = chosen[r]
        state.status[k] = guess[r]
        if loop_rows <= k < base:
            state.effort[k - loop_rows] = impulse[r] / h
            state.work[0] += impulse[r] * v[motors.freedom[k - loop_rows]]
            if motors.trips[k - loop_rows] and guess[r] != FREE:
                state.tripped[k - loop_rows] = time
        elif base <= k < base + n:
            state.work[2] -= impulse[r] * v[k - base]
        elif k >= base + n and impulse[r] > 0.0:
            side = (k - base) // n - 1
            joint = (k - base) % n
            state.stop_time[joint, side] = min(state.stop_time[joint, side], time)


@kernel
def _way_to_stop(beyond, h):
    """The slowest allowed velocity away from a stop: reach it in this step, or come back to it."""
    return (1.0 if beyond < 0.0 else _CORRECTION) * beyond / h


@kernel
def _near(speed):
    """A stop is looked at a little before the free motion reaches it: impulses elsewhere add up."""
    return 2.0 * abs(speed) + 1.0


@kernel
def _record(tree, motors, timeline, gravity, time, matrix, gap, state, work, out, row):
    n = state.v.shape[0]
    target = np.empty(n)
    speed = np.empty(n)
    targets_at(time, timeline.starts, timeline.ends, timeline.points, target, speed)
    out.time[row] = time
    out.position[row] = state.q
    out.velocity[row] = state.v
    for m in range(motors.freedom.shape[0]):
        out.target[row, m] = target[motors.freedom[m]]
    out.energy[row, 0] = kinetic_energy(matrix, state.v)
    out.energy[row, 1] = potential_energy(tree, state.q, gravity, work.rotation, work.translation)
    out.energy[row, 2:5] = state.work
    out.gap[row] = 0.0
    for value in gap:
        out.gap[row] = max(out.gap[row], abs(value))
