"""Inverse kinematics by least squares with bounds.

Levenberg and Marquardt's method with a damping that follows the error (Sugihara, "Solvability-
Unconcerned Inverse Kinematics by the Levenberg-Marquardt Method", 2011), joints held at their
limits while they push outwards, and random starts. Couplings and closures are residuals like the
target's, so they hold wherever it is reached.
"""

from __future__ import annotations

from math import sqrt

import numpy as np

from mooring.compiling import entry, kernel
from mooring.kinematics.kernels.closing import loop_count, loop_equations, rotation_vector
from mooring.kinematics.kernels.poses import point_jacobian, world_frames
from mooring.tree.kernels.dense import factorise, solve_factorised
from mooring.tree.kernels.joints import move
from mooring.tree.kernels.vectors import backward, forward

_LEAST_DAMPING = 1e-11
_STALLED = 1e-3
_MOST_STALLS = 6


@kernel
def _residual(tree, loops, task, q, errors, rows, scratch, with_rows):
    """Errors (6 + k,), the target's in its own axes and weighted; and their derivatives.

    `errors` are what is left to do, so a step solves rows @ step = errors.
    """
    rotation, translation, jacobian, gap, loop_rows, frame = scratch
    world_frames(tree, q, rotation, translation)
    body, on = task.body, task.on_body
    x, y, z = forward(rotation[body], on[0, 3], on[1, 3], on[2, 3])
    x, y, z = x + translation[body, 0], y + translation[body, 1], z + translation[body, 2]
    goal = task.goal
    # The goal's orientation as the frame sees it, turned into the goal's axes.
    for i in range(3):
        for j in range(3):
            total = 0.0
            for k in range(3):
                for m in range(3):
                    total += rotation[body, m, k] * on[k, i] * goal[m, j]
            frame[j, i] = total
    rx, ry, rz = rotation_vector(frame)
    px, py, pz = backward(goal, goal[0, 3] - x, goal[1, 3] - y, goal[2, 3] - z)
    # frame = goal^T actual, whose rotation vector is how far it has turned beyond the goal.
    left = (-rx, -ry, -rz, px, py, pz)
    for i in range(6):
        errors[i] = task.weights[i] * left[i]
    count = gap.shape[0]
    if count:
        loop_equations(tree, loops, q, gap, loop_rows)
        for i in range(count):
            errors[6 + i] = -gap[i]
    if not with_rows:
        return
    point_jacobian(tree, rotation, translation, body, x, y, z, jacobian)
    for n in range(task.chosen.shape[0]):
        c = task.chosen[n]
        ax, ay, az = backward(goal, jacobian[0, c], jacobian[1, c], jacobian[2, c])
        lx, ly, lz = backward(goal, jacobian[3, c], jacobian[4, c], jacobian[5, c])
        column = (ax, ay, az, lx, ly, lz)
        for i in range(6):
            rows[i, n] = task.weights[i] * column[i]
        for i in range(count):
            rows[6 + i, n] = loop_rows[i, c]


@kernel
def _scratch(tree, loops, freedoms):
    bodies = tree.parent.shape[0]
    count = loop_count(loops)
    return (
        np.empty((bodies, 3, 3)),
        np.empty((bodies, 3)),
        np.empty((6, freedoms)),
        np.empty(count),
        np.empty((count, freedoms)),
        np.empty((3, 3)),
    )


@kernel
def _within(task, errors):
    """Whether the target and the loops are met."""
    turn, way = 0.0, 0.0
    for i in range(3):
        if task.weights[i] > 0.0:
            turn += (errors[i] / task.weights[i]) ** 2
        if task.weights[3 + i] > 0.0:
            way += (errors[3 + i] / task.weights[3 + i]) ** 2
    for i in range(6, errors.shape[0]):
        if abs(errors[i]) > task.loop_tolerance:
            return False
    return sqrt(turn) <= task.angle and sqrt(way) <= task.length


@kernel
def _half_square(errors):
    total = 0.0
    for value in errors:
        total += value * value
    return 0.5 * total


@kernel
def _descend(tree, loops, task, q, most_steps, scratch):
    """Go from q to a solution, in place; whether one was found."""
    count = task.chosen.shape[0]
    size = 6 + scratch[3].shape[0]
    errors, trial_errors = np.empty(size), np.empty(size)
    rows = np.empty((size, count))
    normal = np.empty((count, count))
    step = np.empty(count)
    whole = np.zeros(task.lower.shape[0])
    held = np.zeros(count, dtype=np.bool_)
    trial = q.copy()
    _residual(tree, loops, task, q, errors, rows, scratch, True)
    best = _half_square(errors)
    more = 1.0
    stalls = 0
    for _ in range(most_steps):
        if _within(task, errors):
            return True
        held[:] = False
        for _attempt in range(2):
            _solve(rows, errors, held, more * best + _LEAST_DAMPING, normal, step)
            again = False
            for n in range(count):
                at = tree.position[task.chosen[n]]
                if held[n] or at < 0:
                    continue
                c = task.chosen[n]
                out = (q[at] <= task.lower[c] and step[n] < 0.0) or (
                    q[at] >= task.upper[c] and step[n] > 0.0
                )
                if out:
                    held[n] = True
                    again = True
            if not again:
                break
        for n in range(count):
            c = task.chosen[n]
            at = tree.position[c]
            whole[c] = 0.0 if held[n] else step[n]
            if at >= 0:
                whole[c] = min(task.upper[c], max(task.lower[c], q[at] + whole[c])) - q[at]
        trial[:] = q
        move(tree, trial, whole, 1.0)
        _residual(tree, loops, task, trial, trial_errors, rows, scratch, True)
        now = _half_square(trial_errors)
        if now < best:
            stalls = stalls + 1 if now > best * (1.0 - _STALLED) else 0
            best = now
            q[:] = trial
            errors[:] = trial_errors
            more = max(1.0, more * 0.1)
        else:
            more *= 10.0
            stalls += 1
            _residual(tree, loops, task, q, errors, rows, scratch, True)
        if stalls > _MOST_STALLS:
            break
    return _within(task, errors)


@kernel
def _solve(rows, errors, held, damping, normal, step):
    count = step.shape[0]
    for i in range(count):
        step[i] = 0.0
        for j in range(i + 1):
            total = 0.0
            if not held[i] and not held[j]:
                for k in range(errors.shape[0]):
                    total += rows[k, i] * rows[k, j]
            normal[i, j] = total
        normal[i, i] += 1.0 if held[i] else damping
        if not held[i]:
            for k in range(errors.shape[0]):
                step[i] += rows[k, i] * errors[k]
    factorise(normal)
    solve_factorised(normal, step)


@kernel
def _settle(tree, loops, task, q, near, scratch):
    """Slide a solution along those beside it towards a posture, in place."""
    count = task.chosen.shape[0]
    size = 6 + scratch[3].shape[0]
    errors = np.empty(size)
    rows = np.empty((size, count))
    normal = np.empty((size, size))
    side = np.empty(size)
    whole = np.zeros(task.lower.shape[0])
    trial = q.copy()
    share = 1.0
    for _ in range(40):
        here = _distance(tree, task, q, near)
        _residual(tree, loops, task, q, errors, rows, scratch, True)
        largest = 0.0
        for i in range(size):
            side[i] = 0.0
            for n in range(count):
                at = tree.position[task.chosen[n]]
                side[i] += rows[i, n] * (0.0 if at < 0 else near[at] - q[at])
            for j in range(i + 1):
                normal[i, j] = 0.0
                for n in range(count):
                    normal[i, j] += rows[i, n] * rows[j, n]
            largest = max(largest, normal[i, i])
        for i in range(size):
            normal[i, i] += 1e-10 * largest + 1e-14
        factorise(normal)
        solve_factorised(normal, side)
        longest = 0.0
        for n in range(count):
            c = task.chosen[n]
            at = tree.position[c]
            value = 0.0 if at < 0 else near[at] - q[at]
            for i in range(size):
                value -= rows[i, n] * side[i]
            if at >= 0:
                goal = q[at] + share * value
                value = min(task.upper[c], max(task.lower[c], goal)) - q[at]
            whole[c] = value
            longest = max(longest, abs(value))
        if longest < 1e-7:
            return
        trial[:] = q
        move(tree, trial, whole, 1.0)
        if _descend(tree, loops, task, trial, 20, scratch) and (
            _distance(tree, task, trial, near) < here - 1e-12
        ):
            q[:] = trial
            share = min(1.0, 2.0 * share)
        else:
            share *= 0.5
            if share < 1e-3:
                return


@kernel
def _distance(tree, task, q, near):
    total = 0.0
    for c in task.chosen:
        at = tree.position[c]
        if at >= 0:
            total += (q[at] - near[at]) ** 2
    return sqrt(total)


@entry
def solve(tree, loops, task, near, starts, most_steps, seed, wants_nearest, q, report):
    """Find a solution, in q (n,), which is the first start; the best attempt where there is none.

    `report` (3,) gets whether the target is reached, how many starts it took, and how far the
    solution is from `near`.
    """
    np.random.seed(seed)
    scratch = _scratch(tree, loops, task.lower.shape[0])
    size = 6 + scratch[3].shape[0]
    errors = np.empty(size)
    rows = np.empty((size, task.chosen.shape[0]))
    best = np.inf
    found = False
    trial = q.copy()
    first = q.copy()
    used = 0
    for start in range(starts):
        used += 1
        trial[:] = first
        if start > 0:
            for c in task.chosen:
                at = tree.position[c]
                if at >= 0:
                    low, high = max(task.lower[c], -np.pi), min(task.upper[c], np.pi)
                    trial[at] = low + (high - low) * np.random.random()
        reached = _descend(tree, loops, task, trial, most_steps, scratch)
        if reached and wants_nearest:
            _settle(tree, loops, task, trial, near, scratch)
        if reached:
            score = _distance(tree, task, trial, near)
        else:
            _residual(tree, loops, task, trial, errors, rows, scratch, False)
            score = _half_square(errors)
        if (reached and not found) or (reached == found and score < best):
            best = score
            q[:] = trial
            found = found or reached
        if found and not wants_nearest:
            break
    report[0] = 1.0 if found else 0.0
    report[1] = used
    report[2] = _distance(tree, task, q, near)
