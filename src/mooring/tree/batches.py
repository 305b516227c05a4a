"""The boundary to the kernels: any array of states becomes contiguous rows, and back."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring.errors import InputError
from mooring.geometry import Array
from mooring.tree.arrays import FLOATING
from mooring.tree.tree import Tree

_UNIT = 1e-6
"""How far the length of a quaternion may be from one."""


def rows(tree: Tree, name: str, values: ArrayLike) -> tuple[Array, tuple[int, ...]]:
    """States as contiguous rows, and the leading shape they came in.

    Args:
        tree: whose states.
        name: `"q"` for positions, (..., n); any other for what has a value for each freedom,
            (..., m).
        values: of the states.

    Raises:
        InputError: the last dimension is not the number of coordinates, or a value is not finite,
            or a quaternion has not the length 1.
    """
    array = np.asarray(values, dtype=np.float64)
    names = tree.coordinates if name == "q" else tree.freedoms
    if array.ndim == 0 or array.shape[-1] != len(names):
        raise InputError(
            f"{name} has shape {array.shape}; its last dimension must be {len(names)}, one value "
            f"for each of: {', '.join(names)}"
        )
    if not np.isfinite(array).all():
        raise InputError(f"{name} holds values that are not finite")
    count = int(np.prod(array.shape[:-1], dtype=int))
    flat = np.ascontiguousarray(array.reshape(count, len(names)))
    if name == "q":
        _refuse_no_rotations(tree, flat)
    return flat, array.shape[:-1]


def _refuse_no_rotations(tree: Tree, q: Array) -> None:
    for first in tree.arrays.coordinate[tree.arrays.kind == FLOATING]:
        length = np.linalg.norm(q[:, first + 3 : first + 7], axis=1)
        if (np.abs(length - 1) > _UNIT).any():
            joint = tree.coordinates[first].removesuffix(".x")
            raise InputError(
                f"the quaternion of {joint!r} in q has not the length 1; begin with tree.neutral()"
            )


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
    full = []
    for flat, shape in read:
        wanted = flat.shape[-1]
        spread = np.broadcast_to(flat.reshape(*shape, wanted), (*common, wanted))
        count = int(np.prod(common, dtype=int))
        full.append(np.ascontiguousarray(spread.reshape(count, wanted)))
    return full, common
