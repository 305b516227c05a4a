"""Which links may come to touch each other."""

from __future__ import annotations

from collections.abc import Mapping, Set
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from mooring.model import Robot

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
    carriers = {joint.child: joint.parent for joint in robot.joints.values()
                if not joint.moves}  # fmt: skip
    group: dict[str, str] = {}
    for name in robot.tree().links:
        # Parents come before their children.
        group[name] = group[carriers[name]] if name in carriers else name
    return PairRules(group, set(robot.allowances), _joined(robot))


class PairTable(NamedTuple):
    """The same by the numbers of links in the tree.

    Attributes:
        judged, neighbours: (n, n), whether two links are such a pair, the lower number first.
    """

    judged: NDArray[np.bool_]
    neighbours: NDArray[np.bool_]


def pair_table(robot: Robot) -> PairTable:
    """All pairs of links with shapes, less those that are allowed to overlap or cannot move.

    Raises:
        UnsoundRobotError: the robot is no tree; said when its tree is made.
    """
    links = robot.tree().links
    number = {name: k for k, name in enumerate(links)}
    solid = np.array([bool(robot.links[name].collisions) for name in links])
    rules = pair_rules(robot)
    group = np.array([number[rules.group[name]] for name in links])
    pairs = np.triu(solid[:, None] & solid[None, :] & (group[:, None] != group[None, :]), 1)
    for first, second in rules.allowed:
        if first in number and second in number:
            one, other = sorted((number[first], number[second]))
            pairs[one, other] = False
    joined = np.zeros_like(pairs)
    for first, second in map(tuple, rules.joined):
        one, other = sorted((number[first], number[second]))
        joined[one, other] = True
    return PairTable(pairs & ~joined, pairs & joined)


def pairs_of(robot: Robot) -> Pairs:
    """The same by name.

    Raises:
        UnsoundRobotError: the robot is no tree; said when its tree is made.
    """
    links = robot.tree().links
    judged, neighbours = (
        tuple((links[one], links[other]) for one, other in np.argwhere(table))
        for table in pair_table(robot)
    )
    return Pairs(judged, neighbours)


def _joined(robot: Robot) -> set[frozenset[str]]:
    """Links that a joint or a closure joins; one that only carries others is looked through."""
    carried = {joint.child: joint.parent for joint in robot.joints.values()}

    def through(link: str) -> str:
        while robot.links[link].carrier and link in carried:
            link = carried[link]
        return link

    joints = [
        (through(joint.parent), joint.child)
        for joint in robot.joints.values()
        if not joint.kind.floats
    ]
    closures = [closure.between for closure in robot.closures.values()]
    return {frozenset(pair) for pair in (*joints, *closures)}
