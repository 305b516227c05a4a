"""What sensors would measure, without their faults."""

from __future__ import annotations

from math import floor

from mooring.compiling import kernel
from mooring.dynamics.kernels.bodies import load_joints, move_bodies, weigh_bodies
from mooring.simulation.stepping.arrays import (
    SEES_CONTACT,
    SEES_FORCE,
    SEES_MOTION,
    SEES_POSITION,
    SEES_STATE,
    SEES_TORQUE,
)

_ROUNDING = 1e-7


@kernel
def any_due(rates, k):
    """Whether any sensor measures at step k."""
    count = 0
    for n in range(rates.shape[0]):
        count += _due(rates[n], k)
    return count > 0


@kernel
def _due(rate, k):
    return k == 0 or floor(k * rate + _ROUNDING) > floor((k - 1) * rate + _ROUNDING)


@kernel
def measure(
    tree, sensors, gravity, state, v, k, h, rows, motion, used, wrench, pair, x, starts, touching,
    push, outside, loads, readings,
):  # fmt: skip
    """Take the measurements that are due at step k, whose impulses x (used,) are known.

    Accelerations are the means over the step, v are the velocities at its start. `outside` (b, 6)
    and `loads` (m,) are scratch.
    """
    ready = False
    for n in range(sensors.kind.shape[0]):
        if not _due(sensors.rate[n], k):
            continue
        if not ready:
            _forces(tree, gravity, state, v, h, rows, motion, used, wrench, pair, x, push, outside,
                    loads)  # fmt: skip
            ready = True
        row = readings.used[0]
        readings.used[0] += 1
        readings.sensor[row] = n
        readings.time[row] = k * h
        value = readings.values[row]
        kind, i, c = sensors.kind[n], sensors.body[n], sensors.freedom[n]
        if kind == SEES_MOTION:
            _inertial(rows, i, sensors.place[n], sensors.turn[n], value)
        elif kind == SEES_POSITION:
            value[0] = state.q[tree.position[c]]
        elif kind == SEES_TORQUE:
            value[0] = loads[c]
        elif kind == SEES_FORCE:
            _passed_on(rows, i, value)
        elif kind == SEES_CONTACT:
            _touched(rows, i, h, wrench, pair, x, starts, touching, value)
        elif kind == SEES_STATE:
            for j in range(state.q.shape[0]):
                value[j] = state.q[j]


@kernel
def _forces(tree, gravity, state, v, h, rows, motion, used, wrench, pair, x, push, outside, loads):
    """Accelerations of all bodies, and what every joint passes on."""
    move_bodies(tree, v, state.a, gravity, rows, motion)
    weigh_bodies(tree, rows)
    for i in range(outside.shape[0]):
        for j in range(6):
            outside[i, j] = push[i, j]
    for r in range(used):
        for side in range(2):
            body = pair[r, side]
            if body >= 0:
                share = x[r] / h if side == 1 else -x[r] / h
                for j in range(6):
                    outside[body, j] += share * wrench[r, j]
    load_joints(tree, rows, motion, outside, loads)


@kernel
def _inertial(rows, i, place, turn, value):
    """Specific force and angular rate in the sensor's axes, then its orientation (x, y, z, w)."""
    x = rows[i, 9] + rows[i, 0] * place[0] + rows[i, 1] * place[1] + rows[i, 2] * place[2]
    y = rows[i, 10] + rows[i, 3] * place[0] + rows[i, 4] * place[1] + rows[i, 5] * place[2]
    z = rows[i, 11] + rows[i, 6] * place[0] + rows[i, 7] * place[1] + rows[i, 8] * place[2]
    wx, wy, wz = rows[i, 12], rows[i, 13], rows[i, 14]
    ex, ey, ez = rows[i, 18], rows[i, 19], rows[i, 20]
    # The point's velocity, then its acceleration less gravity.
    vx = rows[i, 15] + wy * z - wz * y
    vy = rows[i, 16] + wz * x - wx * z
    vz = rows[i, 17] + wx * y - wy * x
    ax = rows[i, 21] + ey * z - ez * y + wy * vz - wz * vy
    ay = rows[i, 22] + ez * x - ex * z + wz * vx - wx * vz
    az = rows[i, 23] + ex * y - ey * x + wx * vy - wy * vx
    for j in range(3):
        # The sensor's axis j in the world.
        a, b, c = turn[0, j], turn[1, j], turn[2, j]
        px = rows[i, 0] * a + rows[i, 1] * b + rows[i, 2] * c
        py = rows[i, 3] * a + rows[i, 4] * b + rows[i, 5] * c
        pz = rows[i, 6] * a + rows[i, 7] * b + rows[i, 8] * c
        value[j] = px * ax + py * ay + pz * az
        value[3 + j] = px * wx + py * wy + pz * wz
        value[6 + 3 * j], value[7 + 3 * j], value[8 + 3 * j] = px, py, pz


@kernel
def _passed_on(rows, i, value):
    """Moment and force of the joint on its child, about and in the child's frame."""
    fx, fy, fz = rows[i, 27], rows[i, 28], rows[i, 29]
    x, y, z = rows[i, 9], rows[i, 10], rows[i, 11]
    nx = rows[i, 24] - (y * fz - z * fy)
    ny = rows[i, 25] - (z * fx - x * fz)
    nz = rows[i, 26] - (x * fy - y * fx)
    for j in range(3):
        value[j] = rows[i, j] * nx + rows[i, 3 + j] * ny + rows[i, 6 + j] * nz
        value[3 + j] = rows[i, j] * fx + rows[i, 3 + j] * fy + rows[i, 6 + j] * fz


@kernel
def _touched(rows, i, h, wrench, pair, x, starts, touching, value):
    """Sum of the contact forces on a body in its axes, and how hard it is pressed in all."""
    fx, fy, fz, pressed = 0.0, 0.0, 0.0, 0.0
    for n in range(touching):
        r = starts[n]
        sign = 1.0 if pair[r, 1] == i else -1.0 if pair[r, 0] == i else 0.0
        pressed += abs(sign) * x[r] / h
        for k in range(r, r + 3):
            fx += sign * x[k] / h * wrench[k, 3]
            fy += sign * x[k] / h * wrench[k, 4]
            fz += sign * x[k] / h * wrench[k, 5]
    for j in range(3):
        value[j] = rows[i, j] * fx + rows[i, 3 + j] * fy + rows[i, 6 + j] * fz
    value[3] = pressed
