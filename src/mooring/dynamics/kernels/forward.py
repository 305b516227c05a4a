"""Forward dynamics: the accelerations that efforts cause, in time linear in the joints.

Articulated bodies (Featherstone 1983; Featherstone 2008, section 7.3). An articulated inertia is
kept as its three blocks: moment by angular acceleration (A, symmetric), moment by linear
acceleration (B), force by linear acceleration (C, symmetric).

All that is known of a body is a row of one flat array, and is taken from there into scalars: a
slice of an array costs Numba as much as the arithmetic here.
"""

from __future__ import annotations

import numpy as np

from mooring.compiling import entry, kernel
from mooring.tree.arrays import FLOATING, PRISMATIC, REVOLUTE
from mooring.tree.kernels.dense import factorise, solve_factorised
from mooring.tree.kernels.frames import local_frame

# A body's row: its rotation (0) and translation (9) in its parent's frame; its angular (12) and
# linear (15) velocity; the blocks A (18), B (24) and C (33) of its articulated inertia; the moment
# (39) and force (42) that go with it; U (45), 1 / D (51) and u (52) in Featherstone's terms, or the
# acceleration of what floats (45); the acceleration at constant joint speed (53); its angular (59)
# and linear (62) acceleration.
_A, _B, _C, _MOMENT, _FORCE, _U = 18, 24, 33, 39, 42, 45
ROW = 65
"""How long a body's row is."""


@kernel
def forward_dynamics(tree, q, v, tau, gravity, rows, a):
    """Accelerations (m,) for coordinates (n,), velocities and efforts (m,).

    `rows` (bodies, ROW) is scratch.
    """
    # What a kernel calls gets single arrays: the whole tree costs more to pass than they compute.
    parent, kind, freedom, axis = tree.parent, tree.kind, tree.freedom, tree.axis
    n = parent.shape[0]
    for i in range(n):
        local_frame(tree.rotation, tree.translation, axis, kind[i], i, q, tree.coordinate[i], rows)
        _velocity(axis, kind[i], parent[i], i, v, freedom[i], rows)
        _start(tree.mass[i], tree.centre, tree.tensor, i, rows)
    for i in range(n - 1, -1, -1):
        if kind[i] == FLOATING:
            _free(i, tau, freedom[i], rows)
        else:
            c = freedom[i]
            effort, rotor = (tau[c], tree.rotor[c]) if c >= 0 else (0.0, 0.0)
            _project(axis, kind[i], i, effort, rotor, rows)
        if parent[i] >= 0:
            _to_parent(parent[i], i, rows)
    for i in range(n):
        _accelerate(axis, kind[i], parent[i], i, freedom[i], gravity, rows, a)


@kernel
def _velocity(axis, kind, p, i, v, c, rows):
    """Its velocity, and the acceleration that joint motion at constant speed has: v x (S qd)."""
    wx, wy, wz, lx, ly, lz = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    if p >= 0:
        r0, r1, r2, r3, r4, r5, r6, r7, r8 = (
            rows[i, 0], rows[i, 1], rows[i, 2], rows[i, 3], rows[i, 4], rows[i, 5], rows[i, 6],
            rows[i, 7], rows[i, 8],
        )  # fmt: skip
        tx, ty, tz = rows[i, 9], rows[i, 10], rows[i, 11]
        ox, oy, oz = rows[p, 12], rows[p, 13], rows[p, 14]
        ux = rows[p, 15] + oy * tz - oz * ty
        uy = rows[p, 16] + oz * tx - ox * tz
        uz = rows[p, 17] + ox * ty - oy * tx
        wx, wy, wz = (
            r0 * ox + r3 * oy + r6 * oz,
            r1 * ox + r4 * oy + r7 * oz,
            (r2 * ox + r5 * oy + r8 * oz),
        )
        lx, ly, lz = (
            r0 * ux + r3 * uy + r6 * uz,
            r1 * ux + r4 * uy + r7 * uz,
            (r2 * ux + r5 * uy + r8 * uz),
        )
    # The joint's own motion: angular s, linear m.
    sx, sy, sz, mx, my, mz = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    if kind == REVOLUTE:
        sx, sy, sz = axis[i, 0] * v[c], axis[i, 1] * v[c], axis[i, 2] * v[c]
    elif kind == PRISMATIC:
        mx, my, mz = axis[i, 0] * v[c], axis[i, 1] * v[c], axis[i, 2] * v[c]
    elif kind == FLOATING:
        sx, sy, sz, mx, my, mz = v[c], v[c + 1], v[c + 2], v[c + 3], v[c + 4], v[c + 5]
    wx, wy, wz, lx, ly, lz = wx + sx, wy + sy, wz + sz, lx + mx, ly + my, lz + mz
    rows[i, 12], rows[i, 13], rows[i, 14] = wx, wy, wz
    rows[i, 15], rows[i, 16], rows[i, 17] = lx, ly, lz
    rows[i, 53] = wy * sz - wz * sy
    rows[i, 54] = wz * sx - wx * sz
    rows[i, 55] = wx * sy - wy * sx
    rows[i, 56] = ly * sz - lz * sy + wy * mz - wz * my
    rows[i, 57] = lz * sx - lx * sz + wz * mx - wx * mz
    rows[i, 58] = lx * sy - ly * sx + wx * my - wy * mx


@kernel
def _start(m, centre, t, i, rows):
    """The body's own inertia, and the force that its velocity alone calls for: v x* (I v)."""
    cx, cy, cz = centre[i, 0], centre[i, 1], centre[i, 2]
    hx, hy, hz = m * cx, m * cy, m * cz
    a0, a1, a2 = t[i, 0, 0] + hy * cy + hz * cz, t[i, 0, 1] - hx * cy, t[i, 0, 2] - hx * cz
    a3, a4, a5 = (
        t[i, 1, 1] + hx * cx + hz * cz,
        t[i, 1, 2] - hy * cz,
        (t[i, 2, 2] + hx * cx + hy * cy),
    )
    rows[i, 18], rows[i, 19], rows[i, 20] = a0, a1, a2
    rows[i, 21], rows[i, 22], rows[i, 23] = a3, a4, a5
    rows[i, 24], rows[i, 25], rows[i, 26] = 0.0, -hz, hy
    rows[i, 27], rows[i, 28], rows[i, 29] = hz, 0.0, -hx
    rows[i, 30], rows[i, 31], rows[i, 32] = -hy, hx, 0.0
    rows[i, 33], rows[i, 34], rows[i, 35] = m, 0.0, 0.0
    rows[i, 36], rows[i, 37], rows[i, 38] = m, 0.0, m
    wx, wy, wz = rows[i, 12], rows[i, 13], rows[i, 14]
    lx, ly, lz = rows[i, 15], rows[i, 16], rows[i, 17]
    # Momentum about the origin, then its change while carried along.
    jx = a0 * wx + a1 * wy + a2 * wz + hy * lz - hz * ly
    jy = a1 * wx + a3 * wy + a4 * wz + hz * lx - hx * lz
    jz = a2 * wx + a4 * wy + a5 * wz + hx * ly - hy * lx
    px = m * lx + wy * hz - wz * hy
    py = m * ly + wz * hx - wx * hz
    pz = m * lz + wx * hy - wy * hx
    rows[i, 39] = wy * jz - wz * jy + ly * pz - lz * py
    rows[i, 40] = wz * jx - wx * jz + lz * px - lx * pz
    rows[i, 41] = wx * jy - wy * jx + lx * py - ly * px
    rows[i, 42] = wy * pz - wz * py
    rows[i, 43] = wz * px - wx * pz
    rows[i, 44] = wx * py - wy * px


@kernel
def _project(axis, kind, i, effort, rotor, rows):
    """Take the joint's freedom out of the articulated inertia and force, in place."""
    a0, a1, a2, a3, a4, a5 = (
        rows[i, 18], rows[i, 19], rows[i, 20], rows[i, 21], rows[i, 22], rows[i, 23],
    )  # fmt: skip
    b0, b1, b2, b3, b4, b5, b6, b7, b8 = (
        rows[i, 24], rows[i, 25], rows[i, 26], rows[i, 27], rows[i, 28], rows[i, 29],
        rows[i, 30], rows[i, 31], rows[i, 32],
    )  # fmt: skip
    c0, c1, c2, c3, c4, c5 = (
        rows[i, 33], rows[i, 34], rows[i, 35], rows[i, 36], rows[i, 37], rows[i, 38],
    )  # fmt: skip
    nx, ny, nz = rows[i, 39], rows[i, 40], rows[i, 41]
    fx, fy, fz = rows[i, 42], rows[i, 43], rows[i, 44]
    if kind in (REVOLUTE, PRISMATIC):
        x, y, z = axis[i, 0], axis[i, 1], axis[i, 2]
        if kind == REVOLUTE:
            u0, u1, u2 = (
                a0 * x + a1 * y + a2 * z,
                a1 * x + a3 * y + a4 * z,
                (a2 * x + a4 * y + a5 * z),
            )
            u3, u4, u5 = (
                b0 * x + b3 * y + b6 * z,
                b1 * x + b4 * y + b7 * z,
                (b2 * x + b5 * y + b8 * z),
            )
            d = x * u0 + y * u1 + z * u2
            u = effort - (x * nx + y * ny + z * nz)
        else:
            u0, u1, u2 = (
                b0 * x + b1 * y + b2 * z,
                b3 * x + b4 * y + b5 * z,
                (b6 * x + b7 * y + b8 * z),
            )
            u3, u4, u5 = (
                c0 * x + c1 * y + c2 * z,
                c1 * x + c3 * y + c4 * z,
                (c2 * x + c4 * y + c5 * z),
            )
            d = x * u3 + y * u4 + z * u5
            u = effort - (x * fx + y * fy + z * fz)
        d += rotor
        rows[i, 45], rows[i, 46], rows[i, 47] = u0, u1, u2
        rows[i, 48], rows[i, 49], rows[i, 50] = u3, u4, u5
        over = 1.0 / d
        rows[i, 51], rows[i, 52] = over, u
        k0, k1, k2, k3, k4, k5 = u0 * over, u1 * over, u2 * over, u3 * over, u4 * over, u5 * over
        a0, a1, a2, a3, a4, a5 = (
            a0 - k0 * u0, a1 - k0 * u1, a2 - k0 * u2, a3 - k1 * u1, a4 - k1 * u2, a5 - k2 * u2,
        )  # fmt: skip
        b0, b1, b2 = b0 - k0 * u3, b1 - k0 * u4, b2 - k0 * u5
        b3, b4, b5 = b3 - k1 * u3, b4 - k1 * u4, b5 - k1 * u5
        b6, b7, b8 = b6 - k2 * u3, b7 - k2 * u4, b8 - k2 * u5
        c0, c1, c2, c3, c4, c5 = (
            c0 - k3 * u3, c1 - k3 * u4, c2 - k3 * u5, c3 - k4 * u4, c4 - k4 * u5, c5 - k5 * u5,
        )  # fmt: skip
        nx, ny, nz = nx + k0 * u, ny + k1 * u, nz + k2 * u
        fx, fy, fz = fx + k3 * u, fy + k4 * u, fz + k5 * u
        rows[i, 18], rows[i, 19], rows[i, 20] = a0, a1, a2
        rows[i, 21], rows[i, 22], rows[i, 23] = a3, a4, a5
        rows[i, 24], rows[i, 25], rows[i, 26] = b0, b1, b2
        rows[i, 27], rows[i, 28], rows[i, 29] = b3, b4, b5
        rows[i, 30], rows[i, 31], rows[i, 32] = b6, b7, b8
        rows[i, 33], rows[i, 34], rows[i, 35] = c0, c1, c2
        rows[i, 36], rows[i, 37], rows[i, 38] = c3, c4, c5
    x, y, z = rows[i, 53], rows[i, 54], rows[i, 55]
    s, t, w = rows[i, 56], rows[i, 57], rows[i, 58]
    rows[i, 39] = nx + a0 * x + a1 * y + a2 * z + b0 * s + b1 * t + b2 * w
    rows[i, 40] = ny + a1 * x + a3 * y + a4 * z + b3 * s + b4 * t + b5 * w
    rows[i, 41] = nz + a2 * x + a4 * y + a5 * z + b6 * s + b7 * t + b8 * w
    rows[i, 42] = fx + b0 * x + b3 * y + b6 * z + c0 * s + c1 * t + c2 * w
    rows[i, 43] = fy + b1 * x + b4 * y + b7 * z + c1 * s + c3 * t + c4 * w
    rows[i, 44] = fz + b2 * x + b5 * y + b8 * z + c2 * s + c4 * t + c5 * w


@kernel
def _free(i, tau, c, rows):
    """What floats accelerates by itself, and passes on nothing but its effort."""
    whole = np.empty((6, 6))
    answer = np.empty(6)
    symmetric = ((0, 1, 2), (1, 3, 4), (2, 4, 5))
    for j in range(3):
        for k in range(3):
            whole[j, k] = rows[i, _A + symmetric[j][k]]
            whole[j, 3 + k] = rows[i, _B + 3 * j + k]
            whole[3 + k, j] = rows[i, _B + 3 * j + k]
            whole[3 + j, 3 + k] = rows[i, _C + symmetric[j][k]]
        answer[j] = tau[c + j] - rows[i, _MOMENT + j]
        answer[3 + j] = tau[c + 3 + j] - rows[i, _FORCE + j]
    factorise(whole)
    solve_factorised(whole, answer)
    for j in range(6):
        rows[i, _U + j] = answer[j]
        rows[i, _MOMENT + j] = tau[c + j]
    for j in range(_A, _MOMENT):
        rows[i, j] = 0.0


@kernel
def _to_parent(p, i, rows):
    """Express the articulated inertia and force in the parent's frame and add them there."""
    r0, r1, r2, r3, r4, r5, r6, r7, r8 = (
        rows[i, 0], rows[i, 1], rows[i, 2], rows[i, 3], rows[i, 4], rows[i, 5], rows[i, 6],
        rows[i, 7], rows[i, 8],
    )  # fmt: skip
    x, y, z = rows[i, 9], rows[i, 10], rows[i, 11]
    a0, a1, a2, a3, a4, a5 = _turned_symmetric(
        r0, r1, r2, r3, r4, r5, r6, r7, r8,
        rows[i, 18], rows[i, 19], rows[i, 20], rows[i, 21], rows[i, 22], rows[i, 23],
    )  # fmt: skip
    c0, c1, c2, c3, c4, c5 = _turned_symmetric(
        r0, r1, r2, r3, r4, r5, r6, r7, r8,
        rows[i, 33], rows[i, 34], rows[i, 35], rows[i, 36], rows[i, 37], rows[i, 38],
    )  # fmt: skip
    b0, b1, b2, b3, b4, b5, b6, b7, b8 = (
        rows[i, 24], rows[i, 25], rows[i, 26], rows[i, 27], rows[i, 28], rows[i, 29],
        rows[i, 30], rows[i, 31], rows[i, 32],
    )  # fmt: skip
    # R B, then times R^T.
    t0, t1, t2 = (
        r0 * b0 + r1 * b3 + r2 * b6,
        r0 * b1 + r1 * b4 + r2 * b7,
        (r0 * b2 + r1 * b5 + r2 * b8),
    )
    t3, t4, t5 = (
        r3 * b0 + r4 * b3 + r5 * b6,
        r3 * b1 + r4 * b4 + r5 * b7,
        (r3 * b2 + r4 * b5 + r5 * b8),
    )
    t6, t7, t8 = (
        r6 * b0 + r7 * b3 + r8 * b6,
        r6 * b1 + r7 * b4 + r8 * b7,
        (r6 * b2 + r7 * b5 + r8 * b8),
    )
    b0, b1, b2 = (
        t0 * r0 + t1 * r1 + t2 * r2,
        t0 * r3 + t1 * r4 + t2 * r5,
        (t0 * r6 + t1 * r7 + t2 * r8),
    )
    b3, b4, b5 = (
        t3 * r0 + t4 * r1 + t5 * r2,
        t3 * r3 + t4 * r4 + t5 * r5,
        (t3 * r6 + t4 * r7 + t5 * r8),
    )
    b6, b7, b8 = (
        t6 * r0 + t7 * r1 + t8 * r2,
        t6 * r3 + t7 * r4 + t8 * r5,
        (t6 * r6 + t7 * r7 + t8 * r8),
    )
    # With P the cross-product matrix of the way: S = B + P C.
    s0, s3, s6 = b0 + y * c2 - z * c1, b3 + z * c0 - x * c2, b6 + x * c1 - y * c0
    s1, s4, s7 = b1 + y * c4 - z * c3, b4 + z * c1 - x * c4, b7 + x * c3 - y * c1
    s2, s5, s8 = b2 + y * c5 - z * c4, b5 + z * c2 - x * c5, b8 + x * c4 - y * c2
    # A - S P + P B^T; rows and columns are cross products. It is symmetric.
    rows[p, 18] += a0 + y * s2 - z * s1 + y * b2 - z * b1
    rows[p, 19] += a1 + z * s0 - x * s2 + y * b5 - z * b4
    rows[p, 20] += a2 + x * s1 - y * s0 + y * b8 - z * b7
    rows[p, 21] += a3 + z * s3 - x * s5 + z * b3 - x * b5
    rows[p, 22] += a4 + x * s4 - y * s3 + z * b6 - x * b8
    rows[p, 23] += a5 + x * s7 - y * s6 + x * b7 - y * b6
    rows[p, 24] += s0
    rows[p, 25] += s1
    rows[p, 26] += s2
    rows[p, 27] += s3
    rows[p, 28] += s4
    rows[p, 29] += s5
    rows[p, 30] += s6
    rows[p, 31] += s7
    rows[p, 32] += s8
    rows[p, 33] += c0
    rows[p, 34] += c1
    rows[p, 35] += c2
    rows[p, 36] += c3
    rows[p, 37] += c4
    rows[p, 38] += c5
    nx, ny, nz = rows[i, 39], rows[i, 40], rows[i, 41]
    fx, fy, fz = rows[i, 42], rows[i, 43], rows[i, 44]
    gx, gy, gz = (
        r0 * fx + r1 * fy + r2 * fz,
        r3 * fx + r4 * fy + r5 * fz,
        (r6 * fx + r7 * fy + r8 * fz),
    )
    rows[p, 39] += r0 * nx + r1 * ny + r2 * nz + y * gz - z * gy
    rows[p, 40] += r3 * nx + r4 * ny + r5 * nz + z * gx - x * gz
    rows[p, 41] += r6 * nx + r7 * ny + r8 * nz + x * gy - y * gx
    rows[p, 42] += gx
    rows[p, 43] += gy
    rows[p, 44] += gz


@kernel
def _turned_symmetric(r0, r1, r2, r3, r4, r5, r6, r7, r8, a0, a1, a2, a3, a4, a5):
    """R A R^T for a symmetric A: its upper triangle, row by row."""
    t0, t1, t2 = (
        r0 * a0 + r1 * a1 + r2 * a2,
        r0 * a1 + r1 * a3 + r2 * a4,
        (r0 * a2 + r1 * a4 + r2 * a5),
    )
    t3, t4, t5 = (
        r3 * a0 + r4 * a1 + r5 * a2,
        r3 * a1 + r4 * a3 + r5 * a4,
        (r3 * a2 + r4 * a4 + r5 * a5),
    )
    t6, t7, t8 = (
        r6 * a0 + r7 * a1 + r8 * a2,
        r6 * a1 + r7 * a3 + r8 * a4,
        (r6 * a2 + r7 * a4 + r8 * a5),
    )
    return (
        t0 * r0 + t1 * r1 + t2 * r2, t0 * r3 + t1 * r4 + t2 * r5, t0 * r6 + t1 * r7 + t2 * r8,
        t3 * r3 + t4 * r4 + t5 * r5, t3 * r6 + t4 * r7 + t5 * r8, t6 * r6 + t7 * r7 + t8 * r8,
    )  # fmt: skip


@kernel
def _accelerate(axis, kind, p, i, c, gravity, rows, a):
    # The world accelerating upwards is the same as gravity pulling down.
    ax, ay, az, ux, uy, uz = 0.0, 0.0, 0.0, -gravity[0], -gravity[1], -gravity[2]
    if p >= 0:
        tx, ty, tz = rows[i, 9], rows[i, 10], rows[i, 11]
        ax, ay, az = rows[p, 59], rows[p, 60], rows[p, 61]
        ux = rows[p, 62] + ay * tz - az * ty
        uy = rows[p, 63] + az * tx - ax * tz
        uz = rows[p, 64] + ax * ty - ay * tx
    ex = rows[i, 0] * ax + rows[i, 3] * ay + rows[i, 6] * az + rows[i, 53]
    ey = rows[i, 1] * ax + rows[i, 4] * ay + rows[i, 7] * az + rows[i, 54]
    ez = rows[i, 2] * ax + rows[i, 5] * ay + rows[i, 8] * az + rows[i, 55]
    lx = rows[i, 0] * ux + rows[i, 3] * uy + rows[i, 6] * uz + rows[i, 56]
    ly = rows[i, 1] * ux + rows[i, 4] * uy + rows[i, 7] * uz + rows[i, 57]
    lz = rows[i, 2] * ux + rows[i, 5] * uy + rows[i, 8] * uz + rows[i, 58]
    if kind == FLOATING:
        a[c], a[c + 1], a[c + 2] = rows[i, 45] - ex, rows[i, 46] - ey, rows[i, 47] - ez
        a[c + 3], a[c + 4], a[c + 5] = rows[i, 48] - lx, rows[i, 49] - ly, rows[i, 50] - lz
        ex, ey, ez = rows[i, 45], rows[i, 46], rows[i, 47]
        lx, ly, lz = rows[i, 48], rows[i, 49], rows[i, 50]
    elif c >= 0:
        along = (
            rows[i, 45] * ex + rows[i, 46] * ey + rows[i, 47] * ez
            + rows[i, 48] * lx + rows[i, 49] * ly + rows[i, 50] * lz
        )  # fmt: skip
        rate = (rows[i, 52] - along) * rows[i, 51]
        a[c] = rate
        sx, sy, sz = axis[i, 0] * rate, axis[i, 1] * rate, axis[i, 2] * rate
        if kind == REVOLUTE:
            ex, ey, ez = ex + sx, ey + sy, ez + sz
        else:
            lx, ly, lz = lx + sx, ly + sy, lz + sz
    rows[i, 59], rows[i, 60], rows[i, 61] = ex, ey, ez
    rows[i, 62], rows[i, 63], rows[i, 64] = lx, ly, lz


@entry
def batch_forward_dynamics(tree, q, v, tau, gravity, a):
    """Accelerations (b, m) for positions (b, n), velocities and efforts (b, m)."""
    rows = np.empty((tree.parent.shape[0], ROW))
    for b in range(q.shape[0]):
        forward_dynamics(tree, q[b], v[b], tau[b], gravity, rows, a[b])
