"""Rows of couplings, closures, springs, bonds, joint friction and stops."""

from __future__ import annotations

from math import sqrt

import numpy as np

from mooring.compiling import kernel
from mooring.kinematics.kernels.closing import rotation_vector
from mooring.simulation.stepping.kernels.rows import force_at, moment_about, wrench_row

WELDED = np.array([True, True, True, True, True, True])


@kernel
def coupling_rows(loops, positions, r, jacobian, gap):
    """From row r on; returns the row after the last."""
    for k in range(loops.follower.shape[0]):
        follower, leader = loops.follower[k], loops.leader[k]
        for c in range(jacobian.shape[1]):
            jacobian[r, c] = 0.0
        jacobian[r, follower] = 1.0
        jacobian[r, leader] -= loops.ratio[k]
        gap[r] = positions[follower] - loops.ratio[k] * positions[leader] - loops.offset[k]
        r += 1
    return r


@kernel
def body_frame(rows, body, frames, k, turn, place):
    """Frame k (4, 4) on a body, in the world."""
    for j in range(3):
        a, b, c = frames[k, 0, j], frames[k, 1, j], frames[k, 2, j]
        for i in range(3):
            turn[i, j] = (
                rows[body, 3 * i] * a + rows[body, 3 * i + 1] * b + rows[body, 3 * i + 2] * c
            )
    a, b, c = frames[k, 0, 3], frames[k, 1, 3], frames[k, 2, 3]
    for i in range(3):
        place[i] = rows[body, 9 + i] + (
            rows[body, 3 * i] * a + rows[body, 3 * i + 1] * b + rows[body, 3 * i + 2] * c
        )


@kernel
def own_frame(rows, body, turn, place):
    """A body's own frame, in the world."""
    for i in range(3):
        place[i] = rows[body, 9 + i]
        for j in range(3):
            turn[i, j] = rows[body, 3 * i + j]


@kernel
def closure_rows(
    before,
    tip,
    motion,
    a,
    b,
    turn_a,
    place_a,
    turn_b,
    place_b,
    held,
    r,
    jacobian,
    wrench,
    pair,
    gap,
):
    """Rows of two frames in the world, on bodies a and b, that hold on to each other in some ways:
    turning about x, y and z of the first, then moving along them."""
    frame = np.empty((3, 3))
    for i in range(3):
        for j in range(3):
            frame[i, j] = (
                turn_a[0, i] * turn_b[0, j] + turn_a[1, i] * turn_b[1, j]
                + turn_a[2, i] * turn_b[2, j]
            )  # fmt: skip
    rx, ry, rz = rotation_vector(frame)
    for k in range(6):
        if not held[k]:
            continue
        axis = k % 3
        x, y, z = turn_a[0, axis], turn_a[1, axis], turn_a[2, axis]
        if k < 3:
            moment_about(wrench, r, x, y, z)
            gap[r] = (rx, ry, rz)[axis]
        else:
            force_at(wrench, r, place_b[0], place_b[1], place_b[2], x, y, z)
            gap[r] = (
                x * (place_b[0] - place_a[0]) + y * (place_b[1] - place_a[1])
                + z * (place_b[2] - place_a[2])
            )  # fmt: skip
        pair[r, 0], pair[r, 1] = a, b
        wrench_row(before, tip, motion, a, b, wrench, r, jacobian)
        r += 1
    return r


@kernel
def spring_row(before, tip, motion, rows, a, on_a, b, on_b, r, jacobian, wrench, pair):
    """The row of a spring between two points of bodies; returns its length."""
    px, py, pz = forward_row(rows, a, on_a)
    qx, qy, qz = forward_row(rows, b, on_b)
    x, y, z = qx - px, qy - py, qz - pz
    length = sqrt(x * x + y * y + z * z)
    over = 1.0 / max(length, 1e-12)
    force_at(wrench, r, qx, qy, qz, x * over, y * over, z * over)
    pair[r, 0], pair[r, 1] = a, b
    wrench_row(before, tip, motion, a, b, wrench, r, jacobian)
    return length


@kernel
def forward_row(rows, body, point):
    """A point of a body, in the world."""
    r = rows
    return (
        r[body, 9] + r[body, 0] * point[0] + r[body, 1] * point[1] + r[body, 2] * point[2],
        r[body, 10] + r[body, 3] * point[0] + r[body, 4] * point[1] + r[body, 5] * point[2],
        r[body, 11] + r[body, 6] * point[0] + r[body, 7] * point[1] + r[body, 8] * point[2],
    )


@kernel
def loop_rows(tree, loops, bonds, rows, motion, positions, frames, jacobian, wrench, pair, gap):
    """Rows of couplings, closures and closed bonds; returns how many there are, and how many of
    them are not bonds. `frames` is scratch from `new_frames`."""
    turn_a, turn_b, place_a, place_b = frames
    before, tip = tree.before, tree.tip
    r = coupling_rows(loops, positions, 0, jacobian, gap)
    for k in range(r):
        pair[k, 0], pair[k, 1] = -1, -1
    for k in range(loops.first.shape[0]):
        one, other = loops.first[k], loops.second[k]
        body_frame(rows, one, loops.frame_on_first, k, turn_a, place_a)
        body_frame(rows, other, loops.frame_on_second, k, turn_b, place_b)
        r = closure_rows(
            before, tip, motion, one, other, turn_a, place_a, turn_b, place_b, loops.held[k], r,
            jacobian, wrench, pair, gap,
        )  # fmt: skip
    own = r
    for k in range(bonds.first.shape[0]):
        if bonds.closed[k]:
            one, other = bonds.first[k], bonds.second[k]
            body_frame(rows, one, bonds.frame, k, turn_a, place_a)
            own_frame(rows, other, turn_b, place_b)
            r = closure_rows(
                before, tip, motion, one, other, turn_a, place_a, turn_b, place_b, WELDED, r,
                jacobian, wrench, pair, gap,
            )  # fmt: skip
    return r, own


@kernel
def new_frames():
    return np.zeros((3, 3)), np.zeros((3, 3)), np.zeros(3), np.zeros(3)
