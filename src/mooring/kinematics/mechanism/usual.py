"""The rank of a mechanism's equations where it stands in general."""

from __future__ import annotations

import numpy as np

from mooring.errors import RunError
from mooring.geometry import Array
from mooring.kinematics.loops.closing import close_loops, loop_freedoms
from mooring.kinematics.loops.equations import equations
from mooring.tree import Tree

_LOST = 1e-7
_TRIES = 6


def usual_jacobian(tree: Tree, q: Array) -> Array:
    """How the gaps of the loops change, at q or at a closed position near it, (k, m).

    A posture may be special, such as one where all bars lie in a line: of a few positions it is
    that with the highest rank.
    """
    best = equations(tree, q)[1]
    random = np.random.default_rng(0)
    moves = loop_freedoms(tree) & (tree.arrays.position >= 0)
    places = tree.arrays.position[moves]
    for _ in range(_TRIES):
        near = q.copy()
        near[places] += random.normal(scale=0.02, size=len(places))
        try:
            other = equations(tree, close_loops(tree, near, []))[1]
        except RunError:
            continue
        if rank(other) > rank(best):
            best = other
    return best


def rank(matrix: Array) -> int:
    """The rank of a matrix, rows that nearly repeat others left out."""
    if not matrix.size:
        return 0
    sizes = np.linalg.svd(matrix, compute_uv=False)
    return int(np.count_nonzero(sizes > _LOST * sizes.max(initial=1e-30)))
