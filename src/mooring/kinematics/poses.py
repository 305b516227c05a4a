"""Where every link is."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from mooring._native import kinematics as kernels
from mooring.arguments import proven
from mooring.geometry import Array
from mooring.tree import Tree
from mooring.tree.batches import rows


@proven
def link_poses(tree: Tree, q: ArrayLike) -> Array:
    """World poses of all links.

    Args:
        tree: from `robot.tree()`.
        q: positions, (..., n) [rad or m], in the order of `tree.coordinates`.

    Returns:
        (..., n_links, 4, 4) [m], in the order of `tree.links`.

    Raises:
        InputError: q has another length than the coordinates, or is not finite.

    Example:
        >>> from mooring import demo, read
        >>> tree = read(demo.LINE_TENDER.document).tree()
        >>> poses = link_poses(tree, np.zeros(len(tree.coordinates)))
        >>> poses[tree.link("boom"), :3, 3].round(6).tolist()
        [0.0, 0.0, 2.3]
    """
    states, shape = rows(tree, "q", q)
    poses = np.empty((*shape, len(tree.links), 4, 4))
    kernels.link_poses(tree.native, states, poses)
    return poses


@proven
def frame_poses(tree: Tree, q: ArrayLike) -> dict[str, Array]:
    """World poses of the robot's named frames.

    Args:
        tree, q: as for `link_poses`.

    Returns:
        (..., 4, 4) [m] by name.

    Raises:
        InputError: as for `link_poses`.
    """
    poses = link_poses(tree, q)
    return {name: poses[..., row, :, :] @ place for name, (row, place) in tree.frames.items()}
