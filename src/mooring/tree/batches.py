"""The boundary to the kernels: any array of states becomes contiguous rows, and back."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring.errors import InputError
from mooring.geometry import Array
from mooring.tree.tree import Tree


def rows(tree: Tree, name: str, values: ArrayLike) -> tuple[Array, tuple[int, ...]]:
    """States as contiguous rows (b, m), and the leading shape they came in.

    Raises:
        InputError: the last dimension is not the number of coordinates, or a value is not finite.
    """
    array = np.asarray(values, dtype=np.float64)
    wanted = len(tree.coordinates)
    if array.ndim == 0 or array.shape[-1] != wanted:
        names = ", ".join(tree.coordinates)
        raise InputError(
            f"{name} has shape {array.shape}; its last dimension must be {wanted}, one value for "
            f"each of: {names}"
        )
    if not np.isfinite(array).all():
        raise InputError(f"{name} holds values that are not finite")
    count = int(np.prod(array.shape[:-1], dtype=int))
    return np.ascontiguousarray(array.reshape(count, wanted)), array.shape[:-1]


def matching_rows(tree: Tree, **states: ArrayLike) -> tuple[list[Array], tuple[int, ...]]:
    """Several arrays of states broadcast to one leading shape, as contiguous rows.

    Raises:
        InputError: as `rows`, or the leading shapes do not fit together.
    """
    read = [rows(tree, name, values) for name, values in states.items()]
    shapes = [shape for _, shape in read]
    try:
        common = np.broadcast_shapes(*shapes)
    except ValueError:
        listed = ", ".join(f"{n} {s}" for n, s in zip(states, shapes, strict=True))
        raise InputError(f"the leading shapes do not fit together: {listed}") from None
    wanted = len(tree.coordinates)
    full = []
    for flat, shape in read:
        spread = np.broadcast_to(flat.reshape(*shape, wanted), (*common, wanted))
        full.append(np.ascontiguousarray(spread.reshape(-1, wanted)))
    return full, common
