"""Points that move with a robot, by the name of a link or a frame."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array
from mooring.tree import Tree


def place_on(tree: Tree, name: str) -> tuple[int, Array]:
    """The body, and the place on it (4, 4), of a link or a frame; a link comes first.

    Raises:
        ModelError: nothing has that name.
    """
    if name in tree.links:
        return tree.link(name), np.eye(4)
    if name not in tree.frames:
        hint = did_you_mean(name, [*tree.links, *tree.frames])
        raise ModelError(f"no link or frame is called {name!r}{hint}")
    return tree.frames[name]


def point_on(tree: Tree, name: str, point: ArrayLike) -> tuple[int, Array]:
    """The body, and the point on it (3,), of a point of a link or a frame.

    Raises:
        ModelError: nothing has that name.
    """
    body, place = place_on(tree, name)
    return body, np.ascontiguousarray(place[:3, :3] @ np.asarray(point, float) + place[:3, 3])
