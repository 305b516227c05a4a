"""Three links joined at nearly one point whose shapes overlap each other.

Directly joined links may overlap, since nothing looks for contact between them. The first and the
third link of such a group are not joined directly: their overlap at the point where all meet is
there from the start, and a simulated robot thrashes about because of it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from mooring.kinematics.overlaps.measure import Surroundings
from mooring.kinematics.poses import link_poses
from mooring.model import Robot
from mooring.units import show

_NEAR = 0.3
"""How far apart joints are that are taken to be at one point, as a share of the smaller link."""


@dataclass(frozen=True)
class Cluster:
    """Three links and the joints between them.

    Attributes:
        links: from the one nearest the root outwards.
        joints: between them.
        depth: how deep the first and the third overlap at the neutral posture [m].
        clearance: how much each of the two has to be shrunk to part them [m].
    """

    links: tuple[str, str, str]
    joints: tuple[str, str]
    depth: float
    clearance: float

    def __str__(self) -> str:
        first, middle, last = self.links
        return (
            f"{first}, {middle} and {last} are joined at nearly one point, and the shapes of "
            f"{first} and {last} overlap by {show(self.depth, 'length', 3)}"
        )


def clusters(robot: Robot, around: Surroundings | None = None) -> list[Cluster]:
    """All groups of three links joined at nearly one point, with shapes that overlap.

    Args:
        robot: with collision shapes.
        around: these, if they are at hand.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    around = around or Surroundings(robot)
    tree = around.tree
    parents = {joint.child: joint for joint in robot.joints.values()}
    triples = []
    for name, joint in parents.items():
        before = parents.get(joint.parent)
        if before is None or not (joint.moves and before.moves):
            continue
        if tuple(sorted((before.parent, name))) in robot.allowances:
            continue
        if not (robot.links[before.parent].collisions and robot.links[name].collisions):
            continue
        triples.append((before.parent, joint.parent, name, before.name, joint.name))
    pairs = [(first, last) for first, _, last, _, _ in triples]
    judged = around.table.judged
    q = tree.neutral()
    distances, _ = around.distances(q, pairs)
    poses = link_poses(tree, q)
    found = []
    for (first, middle, last, one, two), distance in zip(triples, distances, strict=True):
        inner, outer = sorted((tree.link(first), tree.link(last)))
        if distance >= 0 or not judged[inner, outer]:
            continue
        # A joint's frame is that of its child at zero.
        apart = np.linalg.norm(poses[tree.link(middle), :3, 3] - poses[tree.link(last), :3, 3])
        size = min(around.size(first), around.size(last))
        if apart <= _NEAR * size:
            depth = -float(distance)
            found.append(Cluster((first, middle, last), (one, two), depth, depth / 2 + 5e-4))
    return found
