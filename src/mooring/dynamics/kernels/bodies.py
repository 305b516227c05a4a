"""Mass matrix and inverse dynamics, of bodies seen from the world.

Every body's motion, inertia and force is told in world axes about the world's origin (Featherstone
2008, sections 2.8, 5.3 and 6.2): those of a subtree are then plain sums, and what a joint does to
any force in the machine is one product with its motion axis. Angular parts come first.

All that is known of a body is a row of one flat array; see `forward` for why.
"""

from __future__ import annotations

import numpy as np

from mooring.compiling import entry, kernel
from mooring.tree.arrays import FLOATING, PRISMATIC, REVOLUTE
from mooring.tree.kernels.frames import local_frame

# A body's row: its rotation (0) and translation (9); its velocity (12), acceleration (18) and the
# force on it (24); mass (30), first moment (31) and inertia xx, xy, xz, yy, yz, zz (34) of all that
# it carries.
ROTATION, PLACE, VELOCITY, ACCELERATION, FORCE, INERTIA = 0, 9, 12, 18, 24, 30
ROW = 40
"""How long a body's row is."""


@kernel
def place_bodies(tree, q, rows, motion):
    """Poses of all bodies, and the motion axis (m, 6) of each freedom."""
    parent, kind, freedom = tree.parent, tree.kind, tree.freedom
    fixed, origin, axis, coordinate = tree.rotation, tree.translation, tree.axis, tree.coordinate
    for i in range(parent.shape[0]):
        local_frame(fixed, origin, axis, kind[i], i, q, coordinate[i], rows)
        if parent[i] >= 0:
            _to_world(rows, parent[i], i)
        if freedom[i] >= 0:
            _motion_axes(rows, axis, kind[i], i, freedom[i], motion)


@kernel
def _to_world(rows, p, i):
    p0, p1, p2, p3, p4, p5, p6, p7, p8 = (
        rows[p, 0], rows[p, 1], rows[p, 2], rows[p, 3], rows[p, 4], rows[p, 5], rows[p, 6],
        rows[p, 7], rows[p, 8],
    )  # fmt: skip
    for k in range(3):
        a, b, c = rows[i, k], rows[i, 3 + k], rows[i, 6 + k]
        rows[i, k] = p0 * a + p1 * b + p2 * c
        rows[i, 3 + k] = p3 * a + p4 * b + p5 * c
        rows[i, 6 + k] = p6 * a + p7 * b + p8 * c
    a, b, c = rows[i, 9], rows[i, 10], rows[i, 11]
    rows[i, 9] = rows[p, 9] + p0 * a + p1 * b + p2 * c
    rows[i, 10] = rows[p, 10] + p3 * a + p4 * b + p5 * c
    rows[i, 11] = rows[p, 11] + p6 * a + p7 * b + p8 * c


@kernel
def _motion_axes(rows, axis, kind, i, c, motion):
    px, py, pz = rows[i, 9], rows[i, 10], rows[i, 11]
    if kind == FLOATING:
        for k in range(3):
            x, y, z = rows[i, k], rows[i, 3 + k], rows[i, 6 + k]
            _turning(motion, c + k, x, y, z, px, py, pz)
            _sliding(motion, c + 3 + k, x, y, z)
        return
    ax, ay, az = axis[i, 0], axis[i, 1], axis[i, 2]
    x = rows[i, 0] * ax + rows[i, 1] * ay + rows[i, 2] * az
    y = rows[i, 3] * ax + rows[i, 4] * ay + rows[i, 5] * az
    z = rows[i, 6] * ax + rows[i, 7] * ay + rows[i, 8] * az
    if kind == REVOLUTE:
        _turning(motion, c, x, y, z, px, py, pz)
    elif kind == PRISMATIC:
        _sliding(motion, c, x, y, z)


@kernel
def _turning(motion, c, x, y, z, px, py, pz):
    motion[c, 0], motion[c, 1], motion[c, 2] = x, y, z
    motion[c, 3], motion[c, 4], motion[c, 5] = py * z - pz * y, pz * x - px * z, px * y - py * x


@kernel
def _sliding(motion, c, x, y, z):
    motion[c, 0], motion[c, 1], motion[c, 2] = 0.0, 0.0, 0.0
    motion[c, 3], motion[c, 4], motion[c, 5] = x, y, z


@kernel
def move_bodies(tree, v, a, gravity, rows, motion):
    """Velocities and accelerations of placed bodies, the latter as if the world rose against
    gravity."""
    parent, kind, freedom = tree.parent, tree.kind, tree.freedom
    for i in range(parent.shape[0]):
        p, c = parent[i], freedom[i]
        if p < 0:
            for k in range(6):
                rows[i, 12 + k] = 0.0
                rows[i, 18 + k] = 0.0
            for k in range(3):
                rows[i, 21 + k] = -gravity[k]
        else:
            for k in range(12):
                rows[i, 12 + k] = rows[p, 12 + k]
        if c < 0:
            continue
        sx, sy, sz, mx, my, mz = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
        ax, ay, az, bx, by, bz = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
        for f in range(c, c + (6 if kind[i] == FLOATING else 1)):
            speed, rate = v[f], a[f]
            sx, sy, sz = (
                sx + speed * motion[f, 0],
                sy + speed * motion[f, 1],
                sz + speed * motion[f, 2],
            )
            mx, my, mz = (
                mx + speed * motion[f, 3],
                my + speed * motion[f, 4],
                mz + speed * motion[f, 5],
            )
            ax, ay, az = (
                ax + rate * motion[f, 0],
                ay + rate * motion[f, 1],
                az + rate * motion[f, 2],
            )
            bx, by, bz = (
                bx + rate * motion[f, 3],
                by + rate * motion[f, 4],
                bz + rate * motion[f, 5],
            )
        # The parent's velocity carries the motion axis along.
        wx, wy, wz = rows[i, 12], rows[i, 13], rows[i, 14]
        lx, ly, lz = rows[i, 15], rows[i, 16], rows[i, 17]
        rows[i, 18] += ax + wy * sz - wz * sy
        rows[i, 19] += ay + wz * sx - wx * sz
        rows[i, 20] += az + wx * sy - wy * sx
        rows[i, 21] += bx + wy * mz - wz * my + ly * sz - lz * sy
        rows[i, 22] += by + wz * mx - wx * mz + lz * sx - lx * sz
        rows[i, 23] += bz + wx * my - wy * mx + lx * sy - ly * sx
        rows[i, 12], rows[i, 13], rows[i, 14] = wx + sx, wy + sy, wz + sz
        rows[i, 15], rows[i, 16], rows[i, 17] = lx + mx, ly + my, lz + mz


@kernel
def weigh_bodies(tree, rows):
    """Each body's own inertia."""
    mass, centre, tensor = tree.mass, tree.centre, tree.tensor
    for i in range(mass.shape[0]):
        _weigh(mass[i], centre, tensor, i, rows)


@kernel
def _weigh(m, centre, t, i, rows):
    r0, r1, r2, r3, r4, r5, r6, r7, r8 = (
        rows[i, 0], rows[i, 1], rows[i, 2], rows[i, 3], rows[i, 4], rows[i, 5], rows[i, 6],
        rows[i, 7], rows[i, 8],
    )  # fmt: skip
    a, b, c = centre[i, 0], centre[i, 1], centre[i, 2]
    x = rows[i, 9] + r0 * a + r1 * b + r2 * c
    y = rows[i, 10] + r3 * a + r4 * b + r5 * c
    z = rows[i, 11] + r6 * a + r7 * b + r8 * c
    t0, t1, t2, t3, t4, t5 = t[i, 0, 0], t[i, 0, 1], t[i, 0, 2], t[i, 1, 1], t[i, 1, 2], t[i, 2, 2]
    # R T, then times R^T.
    u0, u1, u2 = (
        r0 * t0 + r1 * t1 + r2 * t2,
        r0 * t1 + r1 * t3 + r2 * t4,
        r0 * t2 + r1 * t4 + r2 * t5,
    )
    u3, u4, u5 = (
        r3 * t0 + r4 * t1 + r5 * t2,
        r3 * t1 + r4 * t3 + r5 * t4,
        r3 * t2 + r4 * t4 + r5 * t5,
    )
    u6, u7, u8 = (
        r6 * t0 + r7 * t1 + r8 * t2,
        r6 * t1 + r7 * t3 + r8 * t4,
        r6 * t2 + r7 * t4 + r8 * t5,
    )
    rows[i, 30], rows[i, 31], rows[i, 32], rows[i, 33] = m, m * x, m * y, m * z
    rows[i, 34] = u0 * r0 + u1 * r1 + u2 * r2 + m * (y * y + z * z)
    rows[i, 35] = u0 * r3 + u1 * r4 + u2 * r5 - m * x * y
    rows[i, 36] = u0 * r6 + u1 * r7 + u2 * r8 - m * x * z
    rows[i, 37] = u3 * r3 + u4 * r4 + u5 * r5 + m * (x * x + z * z)
    rows[i, 38] = u3 * r6 + u4 * r7 + u5 * r8 - m * y * z
    rows[i, 39] = u6 * r6 + u7 * r7 + u8 * r8 + m * (x * x + y * y)


@kernel
def _times_inertia(rows, i, wx, wy, wz, lx, ly, lz):
    """What an inertia makes of a velocity or an acceleration: moment, then force."""
    m, hx, hy, hz = rows[i, 30], rows[i, 31], rows[i, 32], rows[i, 33]
    i0, i1, i2, i3, i4, i5 = (
        rows[i, 34], rows[i, 35], rows[i, 36], rows[i, 37], rows[i, 38], rows[i, 39],
    )  # fmt: skip
    return (
        i0 * wx + i1 * wy + i2 * wz + hy * lz - hz * ly,
        i1 * wx + i3 * wy + i4 * wz + hz * lx - hx * lz,
        i2 * wx + i4 * wy + i5 * wz + hx * ly - hy * lx,
        m * lx + wy * hz - wz * hy,
        m * ly + wz * hx - wx * hz,
        m * lz + wx * hy - wy * hx,
    )


@kernel
def load_joints(tree, rows, motion, outside, tau):
    """Efforts (m,) of the motion that bodies have been given, less what forces from outside (n, 6)
    do of it; each row gets the force that its joint passes on. Before inertias are gathered."""
    parent, before, tip = tree.parent, tree.before, tree.tip
    n = parent.shape[0]
    for i in range(n):
        wx, wy, wz = rows[i, 12], rows[i, 13], rows[i, 14]
        lx, ly, lz = rows[i, 15], rows[i, 16], rows[i, 17]
        jx, jy, jz, px, py, pz = _times_inertia(rows, i, wx, wy, wz, lx, ly, lz)
        nx, ny, nz, fx, fy, fz = _times_inertia(
            rows, i, rows[i, 18], rows[i, 19], rows[i, 20], rows[i, 21], rows[i, 22], rows[i, 23]
        )
        rows[i, 24] = nx + wy * jz - wz * jy + ly * pz - lz * py
        rows[i, 25] = ny + wz * jx - wx * jz + lz * px - lx * pz
        rows[i, 26] = nz + wx * jy - wy * jx + lx * py - ly * px
        rows[i, 27] = fx + wy * pz - wz * py
        rows[i, 28] = fy + wz * px - wx * pz
        rows[i, 29] = fz + wx * py - wy * px
        for k in range(6):
            rows[i, 24 + k] -= outside[i, k]
    for i in range(n - 1, -1, -1):
        p = parent[i]
        c, until = tip[i], (tip[p] if p >= 0 else -1)
        while c != until:
            tau[c] = (
                motion[c, 0] * rows[i, 24] + motion[c, 1] * rows[i, 25] + motion[c, 2] * rows[i, 26]
                + motion[c, 3] * rows[i, 27] + motion[c, 4] * rows[i, 28]
                + motion[c, 5] * rows[i, 29]
            )  # fmt: skip
            c = before[c]
        if p >= 0:
            for k in range(24, 30):
                rows[p, k] += rows[i, k]


@kernel
def weight_on_joints(tree, rows, motion, gravity, weight):
    """Efforts that hold the machine up; bodies are weighed and not yet gathered."""
    parent, before, tip = tree.parent, tree.before, tree.tip
    for c in range(weight.shape[0]):
        weight[c] = 0.0
    for i in range(parent.shape[0]):
        hx, hy, hz, mass = rows[i, 31], rows[i, 32], rows[i, 33], rows[i, 30]
        gx, gy, gz = -gravity[0], -gravity[1], -gravity[2]
        nx, ny, nz = hy * gz - hz * gy, hz * gx - hx * gz, hx * gy - hy * gx
        c = tip[i]
        while c >= 0:
            weight[c] += (
                motion[c, 0] * nx + motion[c, 1] * ny + motion[c, 2] * nz
                + mass * (motion[c, 3] * gx + motion[c, 4] * gy + motion[c, 5] * gz)
            )  # fmt: skip
            c = before[c]


@kernel
def gather_inertias(tree, rows):
    """Add to each body's inertia that of all it carries."""
    parent = tree.parent
    for i in range(parent.shape[0] - 1, 0, -1):
        p = parent[i]
        for k in range(30, 40):
            rows[p, k] += rows[i, k]


@kernel
def mass_rows(tree, rows, motion, matrix):
    """The lower triangle of the mass matrix (m, m); nothing else of it is touched, not even
    entries of freedoms that do not carry each other, which stay zero. After gathering."""
    parent, before, tip, rotor = tree.parent, tree.before, tree.tip, tree.rotor
    for i in range(parent.shape[0]):
        p = parent[i]
        c, until = tip[i], (tip[p] if p >= 0 else -1)
        while c != until:
            nx, ny, nz, fx, fy, fz = _times_inertia(
                rows, i, motion[c, 0], motion[c, 1], motion[c, 2], motion[c, 3], motion[c, 4],
                motion[c, 5],
            )  # fmt: skip
            d = c
            while d >= 0:
                matrix[c, d] = (
                    motion[d, 0] * nx + motion[d, 1] * ny + motion[d, 2] * nz + motion[d, 3] * fx
                    + motion[d, 4] * fy + motion[d, 5] * fz
                )  # fmt: skip
                d = before[d]
            matrix[c, c] += rotor[c]
            c = before[c]


@entry
def batch_inverse_dynamics(tree, q, v, a, gravity, tau):
    """Efforts (b, m) for coordinates (b, n), velocities and accelerations (b, m)."""
    rows = np.empty((tree.parent.shape[0], ROW))
    motion = np.empty((v.shape[1], 6))
    outside = np.zeros((tree.parent.shape[0], 6))
    for b in range(q.shape[0]):
        place_bodies(tree, q[b], rows, motion)
        move_bodies(tree, v[b], a[b], gravity, rows, motion)
        weigh_bodies(tree, rows)
        load_joints(tree, rows, motion, outside, tau[b])
        for c in range(v.shape[1]):
            tau[b, c] += tree.rotor[c] * a[b, c]


@entry
def batch_mass_matrix(tree, q, matrices):
    """Mass matrices (b, m, m) for coordinates (b, n)."""
    rows = np.empty((tree.parent.shape[0], ROW))
    count = matrices.shape[1]
    motion = np.empty((count, 6))
    for b in range(q.shape[0]):
        place_bodies(tree, q[b], rows, motion)
        weigh_bodies(tree, rows)
        gather_inertias(tree, rows)
        matrices[b] = 0.0
        mass_rows(tree, rows, motion, matrices[b])
        for c in range(count):
            for d in range(c):
                matrices[b, d, c] = matrices[b, c, d]
