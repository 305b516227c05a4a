"""What sensors see that look at the scene: rays against the triangles of all links."""

from __future__ import annotations

import numpy as np

from mooring.cad.hierarchy import Boxes
from mooring.geometry import Array, apply
from mooring.kinematics import link_poses
from mooring.model import Robot
from mooring.model.scene import Ground
from mooring.model.sensors import Sensor
from mooring.tree import Tree


class Scenery:
    """A scene that sensors look at, see `mooring.model.sensors.Surroundings`."""

    def __init__(self, robot: Robot, tree: Tree, ground: Ground | None) -> None:
        """Sort the triangles of all links, and of the ground."""
        self.robot, self.tree = robot, tree
        self.ground = ground
        frames = tree.neutral_frames
        self.links: list[tuple[int, Boxes]] = []
        for body, name in enumerate(tree.links):
            link = robot.links[name]
            shapes = link.shown(robot.materials) or link.collisions
            triangles = [
                apply(s.in_link(frames[body]), s.shape.mesh.vertices)[s.shape.mesh.faces]
                for s in shapes
            ]
            if triangles:
                self.links.append((body, Boxes(np.concatenate(triangles))))
        self.land = None if ground is None or ground.heights is None else Boxes(_land(ground))

    def frame(self, sensor: Sensor, q: Array) -> Array:
        """A sensor's frame in the world, (4, 4), at positions q (coordinates,)."""
        mount = sensor.mount(self.robot, self.tree)
        return np.asarray(link_poses(self.tree, q)[mount.body] @ mount.place)

    def distances(
        self, origins: Array, directions: Array, q: Array, nearest: float, farthest: float
    ) -> Array:
        """Distances along rays to what they meet first, (n,) [m]; inf where they meet nothing.

        Args:
            origins, directions: (n, 3) [m] and unit vectors, in the world.
            q: all positions, (coordinates,).
            nearest, farthest: the range of distances that count [m].
        """
        starts = origins + nearest * directions
        reach = farthest - nearest
        best = np.full(len(directions), np.inf)
        poses = link_poses(self.tree, q)
        for body, boxes in self.links:
            turn, place = poses[body, :3, :3], poses[body, :3, 3]
            best = np.minimum(best, boxes.hits((starts - place) @ turn, directions @ turn, reach))
        if self.land is not None:
            best = np.minimum(best, self.land.hits(starts, directions, reach))
        elif self.ground is not None:
            down = -directions[:, 2]
            drop = np.divide(
                starts[:, 2] - self.ground.height, down, out=np.full(len(directions), np.inf),
                where=down > 1e-12,
            )  # fmt: skip
            best = np.minimum(best, np.where((drop >= 0) & (drop <= reach), drop, np.inf))
        return np.asarray(best + nearest)


def _land(ground: Ground) -> Array:
    heights = ground.surface()
    x = ground.corner[0] + ground.cell * np.arange(heights.shape[0])
    y = ground.corner[1] + ground.cell * np.arange(heights.shape[1])
    points = np.dstack([*np.meshgrid(x, y, indexing="ij"), heights])
    a, b, c, d = points[:-1, :-1], points[1:, :-1], points[1:, 1:], points[:-1, 1:]
    # The same diagonal as in contact: from the first corner of a cell to the one across.
    lower, upper = np.stack([a, b, c], axis=2), np.stack([a, c, d], axis=2)
    return np.concatenate([lower.reshape(-1, 3, 3), upper.reshape(-1, 3, 3)])
