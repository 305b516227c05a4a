"""Couplings and closures as equations: how far they are open, and their Jacobian."""

from __future__ import annotations

from math import acos, sqrt

import numpy as np

from mooring.compiling import entry, kernel
from mooring.kinematics.kernels.poses import point_jacobian, world_frames
from mooring.tree.kernels.dense import factorise, solve_factorised
from mooring.tree.kernels.joints import move
from mooring.tree.kernels.vectors import backward, forward

_SOFTNESS = 1e-12


@kernel
def loop_count(loops):
    """How many equations the couplings and closures make."""
    return loops.follower.shape[0] + loops.held.sum()


@kernel
def loop_equations(tree, loops, q, gap, jacobian):
    """How far each equation is from holding (k,), and its derivative by motion of each
    freedom (k, m).

    A closure's equations are the held components of the second frame's displacement from the
    first, in the first frame's axes: a rotation vector and a translation. The Jacobian takes the
    rotation to be small, as it is wherever the loop is nearly closed.
    """
    row = 0
    jacobian[:, :] = 0.0
    for c in range(loops.follower.shape[0]):
        follower, leader = loops.follower[c], loops.leader[c]
        leads, follows = q[tree.position[leader]], q[tree.position[follower]]
        gap[row] = follows - loops.ratio[c] * leads - loops.offset[c]
        jacobian[row, follower] = 1.0
        jacobian[row, leader] -= loops.ratio[c]
        row += 1
    if loops.first.shape[0] == 0:
        return
    count = tree.parent.shape[0]
    rotation = np.empty((count, 3, 3))
    translation = np.empty((count, 3))
    world_frames(tree, q, rotation, translation)
    on_first = np.empty((6, jacobian.shape[1]))
    on_second = np.empty((6, jacobian.shape[1]))
    turn_a = np.empty((3, 3))
    turn_b = np.empty((3, 3))
    frame = np.empty((3, 3))
    for k in range(loops.first.shape[0]):
        a, b = loops.first[k], loops.second[k]
        _turn(rotation[a], loops.frame_on_first[k], turn_a)
        _turn(rotation[b], loops.frame_on_second[k], turn_b)
        at = loops.frame_on_first[k]
        ax, ay, az = forward(rotation[a], at[0, 3], at[1, 3], at[2, 3])
        ax, ay, az = ax + translation[a, 0], ay + translation[a, 1], az + translation[a, 2]
        at = loops.frame_on_second[k]
        bx, by, bz = forward(rotation[b], at[0, 3], at[1, 3], at[2, 3])
        bx, by, bz = bx + translation[b, 0], by + translation[b, 1], bz + translation[b, 2]
        # Both Jacobians at the second frame's origin: their difference is the relative twist
        # as the first frame sees it.
        point_jacobian(tree, rotation, translation, a, bx, by, bz, on_first)
        point_jacobian(tree, rotation, translation, b, bx, by, bz, on_second)
        for i in range(3):
            for j in range(3):
                frame[i, j] = (
                    turn_a[0, i] * turn_b[0, j]
                    + turn_a[1, i] * turn_b[1, j]
                    + turn_a[2, i] * turn_b[2, j]
                )
        rx, ry, rz = rotation_vector(frame)
        tx, ty, tz = backward(turn_a, bx - ax, by - ay, bz - az)
        open_by = (rx, ry, rz, tx, ty, tz)
        for component in range(6):
            if not loops.held[k, component]:
                continue
            gap[row] = open_by[component]
            axis = component % 3
            base = 0 if component < 3 else 3
            for m in range(jacobian.shape[1]):
                total = 0.0
                for j in range(3):
                    total += turn_a[j, axis] * (on_second[base + j, m] - on_first[base + j, m])
                jacobian[row, m] = total
            row += 1


@kernel
def _turn(rotation, frame, out):
    """The world rotation of a frame (4, 4) on a body."""
    for j in range(3):
        x, y, z = forward(rotation, frame[0, j], frame[1, j], frame[2, j])
        out[0, j] = x
        out[1, j] = y
        out[2, j] = z


@kernel
def rotation_vector(r):
    """The rotation vector of a rotation matrix; short of half a turn."""
    x, y, z = r[2, 1] - r[1, 2], r[0, 2] - r[2, 0], r[1, 0] - r[0, 1]
    twice_sine = sqrt(x * x + y * y + z * z)
    cosine = 0.5 * (r[0, 0] + r[1, 1] + r[2, 2] - 1.0)
    if twice_sine < 1e-9:
        return 0.5 * x, 0.5 * y, 0.5 * z
    angle = acos(min(1.0, max(-1.0, cosine)))
    if angle < 1e-4:
        # acos loses half its digits near one; the sine does not.
        angle = 0.5 * twice_sine
    factor = angle / twice_sine
    return factor * x, factor * y, factor * z


@kernel
def _largest(gap):
    largest = 0.0
    for value in gap:
        largest = max(largest, abs(value))
    return largest


@kernel
def _newton_step(jacobian, gap, chosen, normal, weights, step):
    """The smallest step of the chosen freedoms that closes the gap to first order."""
    rows = gap.shape[0]
    largest = 0.0
    for r in range(rows):
        for t in range(r + 1):
            total = 0.0
            for c in chosen:
                total += jacobian[r, c] * jacobian[t, c]
            normal[r, t] = total
            normal[t, r] = total
        largest = max(largest, normal[r, r])
    for r in range(rows):
        normal[r, r] += _SOFTNESS * largest
    factorise(normal)
    weights[:] = gap
    solve_factorised(normal, weights)
    for c in chosen:
        step[c] = 0.0
        for r in range(rows):
            step[c] += jacobian[r, c] * weights[r]


@entry
def close_loops(tree, loops, q, free, lower, upper, tolerance, most_steps):
    """Move the free freedoms (m,) until all couplings and closures hold; returns the largest gap.

    Newton's method with the smallest step that does it, a little softened, since closures of flat
    mechanisms repeat equations. A step is shortened until it lowers the sum of squares.
    """
    rows = loop_count(loops)
    gap = np.zeros(rows)
    jacobian = np.zeros((rows, free.shape[0]))
    trial_gap = np.zeros(rows)
    trial_jacobian = np.zeros((rows, free.shape[0]))
    normal = np.zeros((rows, rows))
    weights = np.zeros(rows)
    step = np.zeros(free.shape[0])
    whole = np.zeros(free.shape[0])
    trial = np.zeros(q.shape[0])
    chosen = np.nonzero(free)[0]
    inside = chosen.copy()
    for _ in range(most_steps):
        loop_equations(tree, loops, q, gap, jacobian)
        worst = _largest(gap)
        if worst <= tolerance or chosen.shape[0] == 0:
            return worst
        _newton_step(jacobian, gap, chosen, normal, weights, step)
        # A freedom at its limit that would go beyond stays out of this step.
        inside[:] = chosen
        kept = 0
        for c in chosen:
            here = tree.position[c]
            at_lower = here >= 0 and q[here] <= lower[c] and step[c] > 0.0
            at_upper = here >= 0 and q[here] >= upper[c] and step[c] < 0.0
            if not (at_lower or at_upper):
                inside[kept] = c
                kept += 1
        if kept < chosen.shape[0]:
            _newton_step(jacobian, gap, inside[:kept], normal, weights, step)
        before = (gap * gap).sum()
        length = 1.0
        for _ in range(12):
            trial[:] = q
            whole[:] = 0.0
            for c in inside[:kept]:
                here = tree.position[c]
                if here < 0:
                    whole[c] = -step[c]
                else:
                    goal = min(upper[c], max(lower[c], q[here] - length * step[c]))
                    whole[c] = (goal - q[here]) / length
            move(tree, trial, whole, length)
            loop_equations(tree, loops, trial, trial_gap, trial_jacobian)
            if (trial_gap * trial_gap).sum() < before:
                break
            length *= 0.5
        q[:] = trial
    loop_equations(tree, loops, q, gap, jacobian)
    return _largest(gap)


@entry
def equations_at(tree, loops, q, gap, jacobian):
    """`loop_equations` for Python."""
    loop_equations(tree, loops, q, gap, jacobian)


@entry
def moved(tree, q, v, time):
    """Where velocities v, kept for a time, lead from q; a copy."""
    result = q.copy()
    move(tree, result, v, time)
    return result
