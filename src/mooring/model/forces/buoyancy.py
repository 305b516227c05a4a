"""Buoyancy."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Literal

import numpy as np
from pydantic import Field

from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.model.definition.fields import Density, Length
from mooring.model.definition.markers import LinkName
from mooring.model.forces.force import Action, Force

if TYPE_CHECKING:
    from mooring.model.robot import Robot
    from mooring.tree import Tree


class Buoyancy(Force):
    """What water lifts of a link: the weight of what its collision shapes displace.

    Attributes:
        name: unique among the robot's forces.
        kind: buoyancy.
        link: which.
        level: of the water's surface, in the world [m].
        density: of the water [kg/m^3].
        fineness: into how many pieces the longest side of each shape is cut.
    """

    law: ClassVar[str] = "buoyancy"

    kind: Literal["buoyancy"]
    link: LinkName
    level: Length = 0.0
    density: Density = Field(default=1025.0, gt=0)
    fineness: int = Field(default=12, ge=2, le=60)

    def action(self, robot: Robot, tree: Tree) -> Action:
        points, volumes, edge = _pieces(self, robot, tree)
        numbers = (self.density, self.level, edge)
        return Action(tree.link(self.link), numbers, points=points, volumes=volumes)


def _pieces(force: Buoyancy, robot: Robot, tree: Tree) -> tuple[Array, Array, float]:
    """Centres (k, 3) and volumes (k,) of the pieces of a link's shapes, and their longest edge."""
    from scipy.spatial import ConvexHull

    points, volumes, edge = [], [], 0.0
    taken: list[tuple[Array, Array]] = []
    link_frame = tree.neutral_frames[tree.link(force.link)]
    for placed in robot.links[force.link].collisions:
        pose = placed.in_link(link_frame)
        hull = ConvexHull(placed.shape.mesh.vertices)
        lowest, highest = hull.points.min(axis=0), hull.points.max(axis=0)
        side = float((highest - lowest).max()) / force.fineness
        counts = np.maximum(1, np.ceil((highest - lowest) / side - 1e-9)).astype(int)
        axes = [
            low + (np.arange(n) + 0.5) * (high - low) / n
            for low, high, n in zip(lowest, highest, counts, strict=True)
        ]
        grid = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3)
        normals, offsets = hull.equations[:, :3], hull.equations[:, 3]
        inside = grid[(grid @ normals.T + offsets <= 1e-9).all(axis=1)]
        if not len(inside):
            continue
        # Pieces at the edge are whole or left out; together they are as large as the shape.
        volume = hull.volume / len(inside)
        here = inside @ pose[:3, :3].T + pose[:3, 3]
        # Where shapes overlap, the water is displaced once.
        for frame, faces in taken:
            local = (here - frame[:3, 3]) @ frame[:3, :3]
            here = here[~(local @ faces[:, :3].T + faces[:, 3] <= 1e-9).all(axis=1)]
        taken.append((pose, hull.equations))
        points.append(here)
        volumes.append(np.full(len(here), volume))
        edge = max(edge, side)
    if not points:
        raise ModelError(
            f"{force.link!r} has no collision shapes, so it displaces no water; give it some "
            f"(collision), or take the force {force.name!r} off"
        )
    return (
        np.ascontiguousarray(np.concatenate(points)), np.concatenate(volumes), edge
    )  # fmt: skip
