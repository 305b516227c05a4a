"""`exercise`: a robot's joints through their ranges, one by one and together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from mooring import announcing, outlet
from mooring.arguments import proven
from mooring.errors import ModelError, RunError
from mooring.exercising.changes import Change, changes
from mooring.exercising.efforts import HoldingEffort, holding_efforts
from mooring.exercising.sweeps import Sweep, Sweeper
from mooring.geometry import Array
from mooring.kinematics import (
    Mobility,
    configuration,
    follow_branch,
    home_configuration,
    mobility,
)
from mooring.kinematics.mechanism.drivers import drivers
from mooring.kinematics.overlaps import Meeting, Surroundings
from mooring.kinematics.overlaps.survey import random_positions, survey_at
from mooring.model import Robot
from mooring.standard import STANDARD_GRAVITY
from mooring.tree import Tree

_NAMED = 4
_MOST_STEPS = 10_000
_MOST_SAMPLES = 1_000_000


class Occasion(NamedTuple):
    """What the robot did at a position.

    Attributes:
        words: for people.
        joint: the one that moved alone, if one did.
    """

    words: str
    joint: str | None = None


@dataclass(frozen=True, eq=False, repr=False)
class Exercise(outlet.Shown):
    """What came of it.

    Attributes:
        robot, tree: what was exercised.
        home: where the joints are while others move, (n,).
        mobility: what the loops leave of the freedoms.
        sweeps: the way of each joint that drives, in the order of v.
        together: all of these at once, there and back, (t, n).
        meetings: of pairs of links while one joint moves alone, and in named postures, the
            deepest overlap first.
        further: the same while several joints move at once.
        where: what the robot did at each position that meetings were looked for, and the same for
            `further`.
        efforts: to hold still against gravity, of each of these joints.
        changes: between named postures.
        unreachable: named postures that cannot be taken, with why.
        mass: total moved mass [kg].
        hulled: links with meshes among their collision shapes, which count as their hulls.
    """

    robot: Robot
    tree: Tree
    home: Array
    mobility: Mobility
    sweeps: tuple[Sweep, ...]
    together: Array
    meetings: tuple[Meeting, ...]
    further: tuple[Meeting, ...]
    where: tuple[tuple[Occasion, ...], tuple[Occasion, ...]]
    efforts: tuple[HoldingEffort, ...]
    changes: tuple[Change, ...]
    unreachable: tuple[str, ...]
    mass: float
    hulled: tuple[str, ...]

    def __repr__(self) -> str:
        found = f"{len(self.overlaps)} overlaps" if self.overlaps else "nothing meets"
        return f"<Exercise of {self.robot.name!r}: {len(self.sweeps)} joints, {found}>"

    @property
    def overlaps(self) -> tuple[Meeting, ...]:
        """Pairs that overlap while one joint moves alone, or in a named posture."""
        return tuple(m for m in self.meetings if m.distance < 0 and not m.neighbours)

    @property
    def possible_overlaps(self) -> tuple[Meeting, ...]:
        """Pairs that overlap only where several joints are away from home."""
        told = {(m.first, m.second) for m in self.overlaps}
        return tuple(
            m
            for m in self.further
            if m.distance < 0 and not m.neighbours and (m.first, m.second) not in told
        )

    @property
    def nearest(self) -> Meeting | None:
        """The pair that comes nearest without overlapping; None where there are no pairs."""
        apart = [m for m in self.meetings if m.distance >= 0 and not m.neighbours]
        return min(apart, key=lambda meeting: meeting.distance, default=None)

    @property
    def weak(self) -> tuple[HoldingEffort, ...]:
        """Joints that cannot be held everywhere within their effort limits."""
        return tuple(effort for effort in self.efforts if effort.too_weak)

    @property
    def stops(self) -> tuple[str, ...]:
        """Why joints did not come to the ends of their ranges."""
        return tuple(stop for sweep in self.sweeps for stop in sweep.stops)

    @property
    def unjudged(self) -> tuple[str, ...]:
        """What could not be judged, and why."""
        robot, found = self.robot, []
        bare = [
            name for name, link in robot.links.items() if link.shown({}) and not link.collisions
        ]
        if not any(link.collisions for link in robot.links.values()):
            found.append("overlaps: no link has a collision shape")
        elif bare:
            found.append(f"overlaps of {_listed(bare)}: without collision shapes")
        if not self.efforts:
            found.append("efforts to hold the machine: " + (
                "nothing is driven" if self.mass else "nothing that moves has a mass"))  # fmt: skip
        unlimited = [effort.joint for effort in self.efforts if not np.isfinite(effort.limit)]
        if unlimited:
            found.append(f"efforts of {_listed(unlimited)}: no effort limit is stated")
        moving = {link for sweep in self.sweeps for link in sweep.moving}
        weightless = [
            name
            for name in self.tree.without_mass
            if name in moving and robot.links[name].made_of()
        ]
        if self.efforts and weightless:
            found.append(f"the weight of {_listed(weightless)}: no mass is known")
        return tuple(found)

    @property
    def ok(self) -> bool:
        """Whether nothing hits anything, nothing is too weak, and every posture is there.

        That is, of what could be judged; see `unjudged`.
        """
        return not (self.overlaps or self.weak or self.unreachable)


@proven
def exercise(
    robot: Robot,
    *,
    posture: str | None = None,
    steps: int = 24,
    samples: int = 300,
    gravity: ArrayLike = (0.0, 0.0, -STANDARD_GRAVITY),
    seed: int = 0,
) -> Exercise:
    """Move every joint through its range, alone and together, and look at what happens.

    Args:
        robot: with limits; collision shapes to find overlaps, masses to find efforts.
        posture: where the joints are while others move; if not given the neutral posture, where
            joints whose limits leave zero out are at the nearest limit.
        steps: positions from end to end of each joint.
        samples: random positions of all joints, besides.
        gravity: (3,) [m/s^2].
        seed: of the random positions.

    Raises:
        ModelError: no such posture; too few or too many steps or samples.
        UnsoundRobotError: the robot is no tree.
        RunError: its loops do not close where the joints are to begin with.

    Example:
        >>> from mooring import demo, read
        >>> done = exercise(read(demo.DRUM_CART.document), samples=20)
        >>> [sweep.joint for sweep in done.sweeps][:2]
        ['port_drive', 'starboard_drive']
    """
    if not 2 <= steps <= _MOST_STEPS:
        raise ModelError(f"steps: from 2 to {_MOST_STEPS:,} positions a joint, got {steps}")
    if not 0 <= samples <= _MOST_SAMPLES:
        raise ModelError(f"samples: from 0 to {_MOST_SAMPLES:,}, got {samples}")
    tree = robot.tree()
    home = (
        home_configuration(robot, tree) if posture is None else configuration(robot, posture, tree)
    )
    driven = drivers(robot, tree, home)
    sweeps, sweeper = [], Sweeper(tree, home, driven)
    for number, joint in enumerate(driven):
        sweeps.append(sweeper.sweep(joint, steps))
        announcing.progress(number + 1, len(driven))
    together = _together(tree, home, sweeps, steps)
    postures, unreachable = _postures(robot, tree)
    alone = [(home[None], Occasion("in the home position"))]
    for one in sweeps:
        alone.append((one.positions, Occasion(f"while {one.joint} moves alone", one.joint)))
    for name, q in postures.items():
        alone.append((q[None], Occasion(f"in posture {name}")))
    several = [
        (together, Occasion("while all joints move together")),
        (
            random_positions(tree, samples, seed),
            Occasion("with several joints away from home"),
        ),
    ]
    positions = np.vstack([states for states, _ in (*alone, *several)])
    around = Surroundings(robot, tree)
    movable = tree.arrays.mass.sum() > 0
    moving = {link for one in sweeps for link in one.moving}
    return Exercise(
        robot,
        tree,
        home,
        mobility(robot, posture),
        tuple(sweeps),
        together,
        survey_at(around, np.vstack([states for states, _ in alone])).meetings,
        survey_at(around, np.vstack([states for states, _ in several])).meetings,
        (_told(alone), _told(several)),
        tuple(holding_efforts(robot, tree, driven, positions, gravity)) if movable else (),
        tuple(changes(tree, postures)),
        tuple(unreachable),
        float(sum(m for n, m in zip(tree.links, tree.arrays.mass, strict=True) if n in moving)),
        around.shapes.hulled,
    )


def _listed(names: Sequence[str]) -> str:
    more = f" and {len(names) - _NAMED} more" if len(names) > _NAMED else ""
    return ", ".join(names[:_NAMED]) + more


def _told(ways: list[tuple[Array, Occasion]]) -> tuple[Occasion, ...]:
    return tuple(occasion for states, occasion in ways for _ in states)


def _together(tree: Tree, home: Array, sweeps: list[Sweep], steps: int) -> Array:
    """All driving joints at once: up to their upper ends, down to the lower ones, and back."""
    places = [tree.coordinate(one.joint) for one in sweeps]
    ends = np.array([[one.positions[0][at], one.positions[-1][at]] for one, at in
                     zip(sweeps, places, strict=True)]).reshape(-1, 2)  # fmt: skip
    way, q = [home], home
    phases = np.linspace(0, 2 * np.pi, 2 * steps + 1)[1:]
    for phase in np.sin(phases):
        reach = np.where(phase >= 0, ends[:, 1], ends[:, 0])
        goals = home[places] + abs(phase) * (reach - home[places])
        try:
            q = follow_branch(
                tree, q, {one.joint: float(goal) for one, goal in zip(sweeps, goals, strict=True)}
            ).q
        except RunError:
            # Each alone comes there, all together do not: that is no fault.
            continue
        way.append(q)
    return np.array(way)


def _postures(robot: Robot, tree: Tree) -> tuple[dict[str, Array], list[str]]:
    reached, refused = {}, []
    for name in robot.postures:
        try:
            reached[name] = configuration(robot, name, tree)
        except RunError as error:
            refused.append(str(error))
    return reached, refused
