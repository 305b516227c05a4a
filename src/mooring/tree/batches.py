"""The boundary to the compiled core: states are checked, and made contiguous."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring._native.tree import finite
from mooring.errors import InputError
from mooring.geometry import Array
from mooring.tree.arrays import FLOATING
from mooring.tree.tree import Tree

_UNIT = 1e-6
"""How far the length of a quaternion may be from one; the compiled core says the same."""


def rows(tree: Tree, name: str, values: ArrayLike) -> tuple[Array, tuple[int, ...]]:
    """States as a contiguous array, and its leading shape.

    Args:
        tree: whose states.
        name: `"q"` for positions, (..., n); any other for what has a value for each freedom,
            (..., m).
        values: of the states.

    Raises:
        InputError: the last dimension is not the number of coordinates, or a value is not finite,
            or a quaternion has not the length 1.
    """
    array = np.asarray(values, dtype=np.float64, order="C")
    names = tree.coordinates if name == "q" else tree.freedoms
    if array.ndim == 0 or array.shape[-1] != len(names):
        raise InputError(
            f"{name} has shape {array.shape}; its last dimension must be {len(names)}, one value "
            f"for each of: {', '.join(names)}"
        )
    if not (tree.native.sound(array) if name == "q" else finite(array)):
        _refuse_unsound(tree, name, array)
    return array, array.shape[:-1]


def _refuse_unsound(tree: Tree, name: str, values: Array) -> None:
    if not np.isfinite(values).all():
        raise InputError(f"{name} holds values that are not finite")
    for first in tree.arrays.coordinate[tree.arrays.kind == FLOATING]:
        length = np.linalg.norm(values[..., first + 3 : first + 7], axis=-1)
        if (np.abs(length - 1) > _UNIT).any():
            joint = tree.coordinates[first].removesuffix(".x")
            raise InputError(
                f"the quaternion of {joint!r} in q has not the length 1; begin with tree.neutral()"
            )


def matching_rows(tree: Tree, **states: ArrayLike) -> tuple[list[Array], tuple[int, ...]]:
    """Several arrays of states, q first, broadcast to one leading shape, contiguous.

    Raises:
        InputError: as `rows`, or the leading shapes do not fit together.
    """
    given = [np.asarray(values, dtype=np.float64, order="C") for values in states.values()]
    if tree.native.fit(*given):
        return given, given[0].shape[:-1]
    read = [rows(tree, name, values) for name, values in states.items()]
    try:
        common = np.broadcast_shapes(*(shape for _, shape in read))
    except ValueError:
        listed = ", ".join(f"{n} {s}" for n, (_, s) in zip(states, read, strict=True))
        raise InputError(f"the leading shapes do not fit together: {listed}") from None
    return [
        np.ascontiguousarray(np.broadcast_to(array, (*common, array.shape[-1])))
        for array, _ in read
    ], common
