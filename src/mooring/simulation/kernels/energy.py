"""Kinetic and potential energy of one state."""

from __future__ import annotations

from mooring.compiling import kernel
from mooring.kinematics.kernels.poses import world_frames
from mooring.tree.kernels.vectors import forward


@kernel
def potential_energy(tree, q, gravity, rotation, translation):
    world_frames(tree, q, rotation, translation)
    total = 0.0
    for i in range(tree.parent.shape[0]):
        x, y, z = forward(rotation[i], tree.centre[i, 0], tree.centre[i, 1], tree.centre[i, 2])
        total -= tree.mass[i] * (
            gravity[0] * (translation[i, 0] + x)
            + gravity[1] * (translation[i, 1] + y)
            + gravity[2] * (translation[i, 2] + z)
        )
    return total


@kernel
def kinetic_energy(matrix, v):
    total = 0.0
    for i in range(v.shape[0]):
        for j in range(v.shape[0]):
            total += 0.5 * v[i] * matrix[i, j] * v[j]
    return total
