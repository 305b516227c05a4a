"""One frame of what is seen: where all links are, and all positions, packed."""

from __future__ import annotations

import base64

import numpy as np

from mooring.formats.scenes.glb import quaternions
from mooring.geometry import Array
from mooring.kinematics import link_poses
from mooring.tree import Tree

Q_DIGITS = np.dtype("<f8")
"""Positions are shown in fields and plots, so they keep all their digits."""


def pack_poses(poses: Array) -> str:
    """Poses (n, 4, 4) as base64 of float32: x, y, z, qx, qy, qz, qw of each."""
    row = np.concatenate([poses[:, :3, 3], quaternions(poses)], axis=1)
    return base64.b64encode(row.astype("<f4").tobytes()).decode("ascii")


def pack_positions(q: Array) -> str:
    """Positions (n,) as base64 of float64."""
    return base64.b64encode(q.astype(Q_DIGITS).tobytes()).decode("ascii")


def frame(tree: Tree, q: Array) -> dict[str, str]:
    """Where everything is at positions q (n,): one message for the browser."""
    return {"poses": pack_poses(np.asarray(link_poses(tree, q))), "q": pack_positions(q)}
