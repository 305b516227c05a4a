"""Three-vectors for kernels, on scalars so that they stay in registers."""

from __future__ import annotations

from mooring.compiling import kernel


@kernel
def cross(ax, ay, az, bx, by, bz):
    return ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx


@kernel
def forward(r, x, y, z):
    """r @ (x, y, z)"""
    return (
        r[0, 0] * x + r[0, 1] * y + r[0, 2] * z,
        r[1, 0] * x + r[1, 1] * y + r[1, 2] * z,
        r[2, 0] * x + r[2, 1] * y + r[2, 2] * z,
    )


@kernel
def backward(r, x, y, z):
    """r.T @ (x, y, z)"""
    return (
        r[0, 0] * x + r[1, 0] * y + r[2, 0] * z,
        r[0, 1] * x + r[1, 1] * y + r[2, 1] * z,
        r[0, 2] * x + r[1, 2] * y + r[2, 2] * z,
    )
