"""What the rules look at: a robot, and what several of them need to know of it."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from mooring.cad.solid import SolidProperties, sum_of_solids
from mooring.errors import RunError
from mooring.exercising.efforts import holding_now
from mooring.exercising.sweeps import Sweep, Sweeper
from mooring.geometry import Array, inverse
from mooring.kinematics import Mobility, configuration, home_configuration, mobility
from mooring.kinematics.mechanism.drivers import drivers
from mooring.kinematics.overlaps import MetPairs, Surroundings
from mooring.model import Inertia, Robot
from mooring.model.shapes import corners_of
from mooring.tree import Tree

_STEPS, _FEWER_STEPS, _MANY = 8, 4, 300
"""Positions of each joint's range that are looked at, and of robots with many joints;
`mooring exercise` looks closer."""
TOUCHING = 1e-6
"""What overlaps by less merely touches [m]."""


class Subject:
    """A robot under examination; everything is found when first asked for.

    Attributes:
        robot: the robot.
    """

    def __init__(self, robot: Robot) -> None:
        self.robot = robot
        self._solids: dict[str, tuple[SolidProperties | None, float]] = {}

    @cached_property
    def tree(self) -> Tree:
        """Only for robots that are one."""
        return self.robot.tree()

    @cached_property
    def frames(self) -> dict[str, Array]:
        """Each link's frame in CAD coordinates."""
        return dict(zip(self.tree.links, self.tree.neutral_frames, strict=True))

    @cached_property
    def own_inertias(self) -> dict[str, Inertia | None]:
        """Mass properties as if each link's frame were the CAD's; also where there is no tree."""
        return {name: self.robot.inertia(name, np.eye(4)) for name in self.robot.links}

    @cached_property
    def inertias(self) -> dict[str, Inertia | None]:
        """Mass properties in each link's coordinates."""
        return {name: self.robot.inertia(name) for name in self.frames}

    @cached_property
    def seen(self) -> dict[str, Array]:
        """All corners of what each link shows, in its own coordinates, (n, 3) [m]."""
        robot = self.robot
        return {
            name: corners_of(link.shown(robot.materials), self.frames[name])
            for name, link in robot.links.items()
        }

    def shape_of(self, name: str) -> tuple[SolidProperties | None, float]:
        """What a link is made of, or shows, as one solid in its own coordinates.

        Returns:
            The solid, None where nothing closed is there; and how many times another mass spread
            may differ from it before that is odd: shapes that stand for a link are rough.
        """
        if name not in self._solids:
            self._solids[name] = self._shape_of(name)
        return self._solids[name]

    def _shape_of(self, name: str) -> tuple[SolidProperties | None, float]:
        link, frame = self.robot.links[name], self.frames[name]
        bodies = [b for b in link.weighed_by(frame) if b.volume > 0 and b.geometry.closed]
        if not bodies or sum(body.volume for body in bodies) <= 0:
            return None, 0.0
        whole = sum_of_solids([body.solid for body in bodies]).placed(inverse(link.home(frame)))
        return whole, 4.0 if link.parts else 10.0

    @cached_property
    def home(self) -> Array:
        """Where all joints are to begin with, (n,); see `home_configuration`."""
        try:
            return home_configuration(self.robot, self.tree)
        except RunError:
            return self.tree.neutral()

    @cached_property
    def around(self) -> Surroundings:
        """The collision shapes."""
        return Surroundings(self.robot, self.tree)

    @cached_property
    def postures(self) -> dict[str, Array]:
        """Positions (n,) of the named postures that can be taken."""
        found = {}
        for name in self.robot.postures:
            try:
                found[name] = configuration(self.robot, name, self.tree)
            except RunError:
                continue
        return found

    @cached_property
    def mobility(self) -> Mobility:
        """What the loops leave of the freedoms; raises RunError where they do not close."""
        return mobility(self.robot)

    @cached_property
    def driven(self) -> list[str]:
        """Joints that decide where all others are."""
        return drivers(self.robot, self.tree, self.tree.neutral())

    @cached_property
    def sweeps(self) -> list[Sweep]:
        """Each of these through its range; none where the loops are open to begin with."""
        try:
            configuration(self.robot, None, self.tree)
        except RunError:
            return []
        sweeper = Sweeper(self.tree, self.home, self.driven)
        steps = _STEPS if len(self.driven) <= _MANY else _FEWER_STEPS
        return [sweeper.sweep(joint, steps) for joint in self.driven]

    @cached_property
    def postures_and_sweeps(self) -> tuple[Array, list[str]]:
        """Positions (b, n) of the neutral posture, the named ones and the sweeps; what each is."""
        states = [self.home[None], *(q[None] for q in self.postures.values())]
        words = ["at the neutral posture", *(f"in posture {name!r}" for name in self.postures)]
        for way in self.sweeps:
            states.append(way.positions)
            words += [f"while {way.joint} moves"] * len(way.positions)
        return np.vstack(states), words

    @cached_property
    def overlaps(self) -> MetPairs:
        """The pairs of links that overlap at these positions."""
        states, _ = self.postures_and_sweeps
        moving = np.full((len(states), len(self.tree.links)), 2, dtype=np.uint8)
        row = 1 + len(self.postures)
        tied = len(self.tree.loops.follower) + len(self.tree.loops.first) > 0
        for way in self.sweeps:
            if not tied:
                # What hangs on a joint stays as it is in itself.
                here = slice(row, row + len(way.positions))
                moving[here] = 0
                moving[here, [self.tree.link(name) for name in way.moving]] = 1
            row += len(way.positions)
        return self.around.meetings(states, moving, -TOUCHING)

    @cached_property
    def holding(self) -> Array:
        """Efforts of the driven joints to hold the weight at these positions, (b, d)."""
        return holding_now(self.tree, self.driven, self.postures_and_sweeps[0])
