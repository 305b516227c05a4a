"""What a range scanner sees: rays against all that can be seen, by a tree of boxes a link."""

from __future__ import annotations

import numpy as np

from mooring.cad.hierarchy import Boxes
from mooring.geometry import Array, apply
from mooring.kinematics import link_poses
from mooring.model import Robot
from mooring.model.scene import Ground
from mooring.model.sensor import RangeScanner
from mooring.simulation.sensing.build import place_of
from mooring.tree import Tree


class Scenery:
    """Everything that stops a ray."""

    def __init__(self, robot: Robot, tree: Tree, ground: Ground | None) -> None:
        """Sort the triangles of all links, and of the ground."""
        self.tree = tree
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

    def distances(self, origins: Array, ways: Array, q: Array, nearest: float, far: float) -> Array:
        """How far rays go, (n,) [m]; inf for those that meet nothing between nearest and far.

        Args:
            origins, ways: (n, 3), unit vectors.
            q: how everything stands, (n,).
            nearest, far: [m].
        """
        starts = origins + nearest * ways
        reach = far - nearest
        best = np.full(len(ways), np.inf)
        poses = link_poses(self.tree, q)
        for body, boxes in self.links:
            turn, place = poses[body, :3, :3], poses[body, :3, 3]
            best = np.minimum(best, boxes.hits((starts - place) @ turn, ways @ turn, reach))
        if self.land is not None:
            best = np.minimum(best, self.land.hits(starts, ways, reach))
        elif self.ground is not None:
            down = -ways[:, 2]
            drop = np.divide(
                starts[:, 2] - self.ground.height, down, out=np.full(len(ways), np.inf),
                where=down > 1e-12,
            )  # fmt: skip
            best = np.minimum(best, np.where((drop >= 0) & (drop <= reach), drop, np.inf))
        return np.asarray(best + nearest)


def rays_of(sensor: RangeScanner) -> Array:
    """The directions of a scanner's rays in its own axes, (layers * rays, 3), layer by layer."""
    whole = sensor.field > 2 * np.pi - 1e-9
    across = np.linspace(-sensor.field / 2, sensor.field / 2, sensor.rays, endpoint=not whole)
    up = np.linspace(-sensor.layer_field / 2, sensor.layer_field / 2, sensor.layers)
    up = up if sensor.layers > 1 else np.zeros(1)
    rise, turn = np.meshgrid(up, across, indexing="ij")
    level = np.cos(rise)
    ways = np.stack([level * np.cos(turn), level * np.sin(turn), np.sin(rise)], axis=-1)
    return np.asarray(ways.reshape(-1, 3))


def scans(sensor: RangeScanner, scenery: Scenery, states: Array) -> Array:
    """Distances (k, layers * rays) [m] at states (k, n)."""
    body, place = place_of(scenery.tree, sensor)
    ways = rays_of(sensor)
    found = []
    for q in states:
        pose = link_poses(scenery.tree, q)[body] @ place
        origins = np.broadcast_to(pose[:3, 3], ways.shape)
        turned = ways @ pose[:3, :3].T
        found.append(scenery.distances(origins, turned, q, sensor.nearest, sensor.farthest))
    return np.array(found).reshape(len(states), len(ways))


def _land(ground: Ground) -> Array:
    heights = ground.surface()
    x = ground.corner[0] + ground.cell * np.arange(heights.shape[0])
    y = ground.corner[1] + ground.cell * np.arange(heights.shape[1])
    points = np.dstack([*np.meshgrid(x, y, indexing="ij"), heights])
    a, b, c, d = points[:-1, :-1], points[1:, :-1], points[1:, 1:], points[:-1, 1:]
    # The same diagonal as in contact: from the first corner of a cell to the one across.
    lower, upper = np.stack([a, b, c], axis=2), np.stack([a, c, d], axis=2)
    return np.concatenate([lower.reshape(-1, 3, 3), upper.reshape(-1, 3, 3)])
