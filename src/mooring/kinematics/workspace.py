"""What a tool can reach."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mooring.arguments import proven
from mooring.geometry import Array
from mooring.kinematics.jacobian import jacobian
from mooring.kinematics.loops import loop_freedoms
from mooring.kinematics.mechanism.drivers import drivers, transmission
from mooring.kinematics.on_links import place_on
from mooring.kinematics.overlaps.survey import random_positions
from mooring.kinematics.poses import link_poses
from mooring.model import Robot

if TYPE_CHECKING:
    import pandas as pd


@dataclass(frozen=True, eq=False)
class Workspace:
    """Reachable positions of a frame.

    Attributes:
        frame: its name.
        points: in the world, (c, 3) [m].
        manipulability: at each, (c,): the volume of the velocities that the driven joints give at
            unit speed (Yoshikawa 1985), 0 where it cannot move in all three directions.
        q: the joints' positions, (c, n).
    """

    frame: str
    points: Array
    manipulability: Array
    q: Array

    @property
    def extents(self) -> Array:
        """Lowest and highest coordinates, (2, 3) [m]."""
        return np.array([self.points.min(axis=0), self.points.max(axis=0)])

    @property
    def table(self) -> pd.DataFrame:
        """One row a position: x, y, z [m] and manipulability."""
        import pandas as pd

        table = pd.DataFrame(self.points, columns=["x", "y", "z"])
        table["manipulability"] = self.manipulability
        return table

    def __str__(self) -> str:
        low, high = self.extents
        spans = ", ".join(
            f"{name} {a:.3g} .. {b:.3g} m" for name, a, b in zip("xyz", low, high, strict=True)
        )
        far = float(np.linalg.norm(self.points, axis=1).max())
        return f"{self.frame} reaches {spans}; at most {far:.3g} m from the origin"


@proven
def workspace(robot: Robot, frame: str, count: int = 4000, seed: int = 0) -> Workspace:
    """Sample what a frame can reach, within limits and with loops closed.

    Args:
        robot: whose joints move.
        frame: name of a frame or link.
        count: of positions.
        seed: of the random ones; the same seed gives the same cloud.

    Raises:
        ModelError: nothing has that name.
        UnsoundRobotError: the robot is no tree.

    Example:
        >>> from mooring import demo, read
        >>> cloud = workspace(read(demo.LINE_TENDER.document), "grip", count=100)
        >>> bool(cloud.extents[1, 2] > 2.0)
        True
    """
    tree = robot.tree()
    body, on_body = place_on(tree, frame)
    q = random_positions(tree, count, seed)
    points = link_poses(tree, q)[:, body] @ on_body[:, 3]
    moves = jacobian(tree, q, frame)[:, 3:]
    driven = drivers(robot, tree, tree.neutral())
    if loop_freedoms(tree).any():
        moves = np.array(
            [j @ transmission(tree, one, driven) for j, one in zip(moves, q, strict=True)]
        )
    else:
        moves = moves[:, :, [tree.freedom(name) for name in driven]]
    volume = np.sqrt(np.maximum(np.linalg.det(moves @ np.swapaxes(moves, 1, 2)), 0.0))
    return Workspace(frame, np.ascontiguousarray(points[:, :3]), volume, q)
