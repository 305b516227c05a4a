"""Poses, loops, overlaps; see `native/kinematics/` and `native/overlaps/`."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from mooring._native.tree import Shapes, Tree

Array = NDArray[np.float64]

def link_poses(tree: Tree, q: Array, out: Array) -> None: ...
def jacobian(tree: Tree, q: Array, body: int, point: Array, out: Array) -> None: ...
def jacobian_rate(tree: Tree, q: Array, v: Array, body: int, point: Array, out: Array) -> None: ...
def mass_centre(tree: Tree, q: Array, centres: Array, jacobians: Array) -> None: ...
def loop_count(tree: Tree) -> int: ...
def loop_equations(tree: Tree, q: Array, gap: Array, jacobian: Array) -> None: ...
def close_loops(
    tree: Tree,
    q: Array,
    free: NDArray[np.bool_],
    lower: Array,
    upper: Array,
    tolerance: float,
    most_steps: int,
) -> float: ...
def solve_ik(
    tree: Tree,
    task: Any,
    near: Array,
    starts: int,
    most_steps: int,
    seed: int,
    wants_nearest: bool,
    q: Array,
) -> tuple[bool, int, float]: ...
def pair_distances(
    tree: Tree,
    shapes: Shapes,
    pairs: NDArray[np.int64],
    q: Array,
    beyond: float,
    distances: Array,
    contacts: Array,
) -> None: ...
def meetings(
    tree: Tree,
    shapes: Shapes,
    judged: NDArray[np.uint8],
    q: Array,
    moving: NDArray[np.uint8],
    below: float,
) -> tuple[NDArray[np.int64], Array]: ...
