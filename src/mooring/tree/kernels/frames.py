"""Where a joint puts its body, told in scalars; for kernels that keep a row of numbers a body."""

from __future__ import annotations

from math import cos, sin

from mooring.compiling import kernel
from mooring.tree.arrays import FLOATING, PRISMATIC, REVOLUTE


@kernel
def local_frame(fixed, origin, axis, kind, i, q, k, rows):
    """Where body i's frame is in its parent's: rotation in rows[i, 0:9], translation in [9:12]."""
    f = fixed
    f0, f1, f2 = f[i, 0, 0], f[i, 0, 1], f[i, 0, 2]
    f3, f4, f5 = f[i, 1, 0], f[i, 1, 1], f[i, 1, 2]
    f6, f7, f8 = f[i, 2, 0], f[i, 2, 1], f[i, 2, 2]
    px, py, pz = origin[i, 0], origin[i, 1], origin[i, 2]
    x, y, z = axis[i, 0], axis[i, 1], axis[i, 2]
    if kind == PRISMATIC:
        way = q[k]
        px += way * (f0 * x + f1 * y + f2 * z)
        py += way * (f3 * x + f4 * y + f5 * z)
        pz += way * (f6 * x + f7 * y + f8 * z)
    rows[i, 9], rows[i, 10], rows[i, 11] = px, py, pz
    if kind == REVOLUTE:
        angle = q[k]
        c, s = cos(angle), sin(angle)
        d = 1.0 - c
        xy, xz, yz = d * x * y, d * x * z, d * y * z
        r0, r1, r2 = c + d * x * x, xy - s * z, xz + s * y
        r3, r4, r5 = xy + s * z, c + d * y * y, yz - s * x
        r6, r7, r8 = xz - s * y, yz + s * x, c + d * z * z
    elif kind == FLOATING:
        dx, dy, dz = q[k], q[k + 1], q[k + 2]
        rows[i, 9] += f0 * dx + f1 * dy + f2 * dz
        rows[i, 10] += f3 * dx + f4 * dy + f5 * dz
        rows[i, 11] += f6 * dx + f7 * dy + f8 * dz
        x, y, z, w = q[k + 3], q[k + 4], q[k + 5], q[k + 6]
        r0, r1, r2 = 1.0 - 2.0 * (y * y + z * z), 2.0 * (x * y - z * w), 2.0 * (x * z + y * w)
        r3, r4, r5 = 2.0 * (x * y + z * w), 1.0 - 2.0 * (x * x + z * z), 2.0 * (y * z - x * w)
        r6, r7, r8 = 2.0 * (x * z - y * w), 2.0 * (y * z + x * w), 1.0 - 2.0 * (x * x + y * y)
    else:
        r0, r1, r2, r3, r4, r5, r6, r7, r8 = 1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0
    rows[i, 0] = f0 * r0 + f1 * r3 + f2 * r6
    rows[i, 1] = f0 * r1 + f1 * r4 + f2 * r7
    rows[i, 2] = f0 * r2 + f1 * r5 + f2 * r8
    rows[i, 3] = f3 * r0 + f4 * r3 + f5 * r6
    rows[i, 4] = f3 * r1 + f4 * r4 + f5 * r7
    rows[i, 5] = f3 * r2 + f4 * r5 + f5 * r8
    rows[i, 6] = f6 * r0 + f7 * r3 + f8 * r6
    rows[i, 7] = f6 * r1 + f7 * r4 + f8 * r7
    rows[i, 8] = f6 * r2 + f7 * r5 + f8 * r8
