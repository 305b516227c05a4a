"""Energies of bodies that have been placed, moved and weighed; before inertias are gathered."""

from __future__ import annotations

from mooring.compiling import kernel


@kernel
def kinetic_energy(rows, rotor, v):
    total = 0.0
    for i in range(rows.shape[0]):
        wx, wy, wz = rows[i, 12], rows[i, 13], rows[i, 14]
        lx, ly, lz = rows[i, 15], rows[i, 16], rows[i, 17]
        hx, hy, hz = rows[i, 31], rows[i, 32], rows[i, 33]
        total += 0.5 * (
            rows[i, 34] * wx * wx + rows[i, 37] * wy * wy + rows[i, 39] * wz * wz
            + 2.0 * (rows[i, 35] * wx * wy + rows[i, 36] * wx * wz + rows[i, 38] * wy * wz)
            + rows[i, 30] * (lx * lx + ly * ly + lz * lz)
        )  # fmt: skip
        # The velocity of the centre is l + w x c; the cross term is m l . (w x c).
        total += lx * (wy * hz - wz * hy) + ly * (wz * hx - wx * hz) + lz * (wx * hy - wy * hx)
    for c in range(v.shape[0]):
        total += 0.5 * rotor[c] * v[c] * v[c]
    return total


@kernel
def potential_energy(rows, gravity):
    total = 0.0
    for i in range(rows.shape[0]):
        total -= gravity[0] * rows[i, 31] + gravity[1] * rows[i, 32] + gravity[2] * rows[i, 33]
    return total
