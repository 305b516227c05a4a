"""Which links may come to touch each other."""

from __future__ import annotations

from collections.abc import Mapping, Set
from itertools import combinations
from typing import NamedTuple

from mooring.model import Robot
from mooring.model.structure import carrier_of, roots

Pair = tuple[str, str]


class Pairs(NamedTuple):
    """Pairs of links that move against each other and have shapes.

    Attributes:
        judged: those whose overlaps are faults.
        neighbours: those joined directly, by a joint or a closure; they may overlap there.
    """

    judged: tuple[Pair, ...]
    neighbours: tuple[Pair, ...]


class PairRules(NamedTuple):
    """Which links pass through each other.

    Attributes:
        group: for each link the one that carries it: links of one group cannot move against each
            other.
        allowed: pairs that may overlap, each in alphabetical order.
        joined: pairs that a joint or a closure joins.
    """

    group: Mapping[str, str]
    allowed: Set[Pair]
    joined: Set[frozenset[str]]


def pair_rules(robot: Robot) -> PairRules:
    """What is needed to tell of any two links whether they may touch."""
    group = {name: carrier_of(robot, name) for name in robot.tree().links}
    return PairRules(group, set(robot.allowances), _joined(robot))


def pairs_of(robot: Robot) -> Pairs:
    """All pairs of links with shapes, less those that are allowed to overlap or cannot move.

    Raises:
        UnsoundRobotError: the robot is no tree; said when its tree is made.
    """
    with_shapes = [name for name in robot.tree().links if robot.links[name].collisions]
    group, allowed, joined = pair_rules(robot)
    judged: list[Pair] = []
    neighbours: list[Pair] = []
    for first, second in combinations(with_shapes, 2):
        if group[first] == group[second]:
            continue
        if (min(first, second), max(first, second)) in allowed:
            continue
        (neighbours if frozenset((first, second)) in joined else judged).append((first, second))
    return Pairs(tuple(judged), tuple(neighbours))


def _joined(robot: Robot) -> set[frozenset[str]]:
    """Links that a joint or a closure joins; one that only carries others is looked through."""
    carried = {joint.child: joint.parent for joint in robot.joints.values()}

    def through(link: str) -> str:
        while robot.links[link].carrier and link in carried and link != roots(robot)[0]:
            link = carried[link]
        return link

    joints = [
        (through(joint.parent), joint.child)
        for joint in robot.joints.values()
        if joint.type != "floating"
    ]
    closures = [closure.between for closure in robot.closures.values()]
    return {frozenset(pair) for pair in (*joints, *closures)}
