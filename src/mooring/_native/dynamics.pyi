"""Mass and motion; see `native/dynamics/`."""

import numpy as np
from numpy.typing import NDArray

from mooring._native.tree import Tree

Array = NDArray[np.float64]

def inverse_dynamics(
    tree: Tree, q: Array, v: Array, third: Array, gravity: Array, threads: int, out: Array
) -> None: ...
def forward_dynamics(
    tree: Tree, q: Array, v: Array, third: Array, gravity: Array, threads: int, out: Array
) -> None: ...
def mass_matrix(tree: Tree, q: Array, out: Array) -> None: ...
def spring_efforts(tree: Tree, q: Array, out: Array) -> None: ...
