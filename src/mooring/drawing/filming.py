"""How a film is taken: how fast, from where, following what, saying what."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from mooring.drawing.camera import Camera, ViewName, looking_at
from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array, rotation_about
from mooring.kinematics import link_poses
from mooring.model import Robot
from mooring.model.definition.fields import dimension_of
from mooring.tree import Tree
from mooring.units import show

SIZE = (960, 600)
RATE = 25
_LOOKS = 40
"""Instants that the view is fitted to."""


@dataclass(frozen=True)
class Filming:
    """What the one who films is told.

    Attributes:
        speed: of the film: 0.1 is ten times slower than it happened.
        view: as for `picture`.
        follow: a link that stays where it is on the picture.
        turn: how fast the eye goes round [rad/s of the film].
        say: joints whose positions the caption tells.
        size: of the pictures [pixels].
    """

    speed: float = 1.0
    view: ViewName | tuple[float, float] = "corner"
    follow: str | None = None
    turn: float = 0.0
    say: Sequence[str] = ()
    size: tuple[int, int] = SIZE

    def check(self, robot: Robot, tree: Tree) -> None:
        """Refuse what the robot does not have.

        Raises:
            ModelError: an unknown link or joint, or a speed that is not greater than zero.
        """
        if not (np.isfinite(self.speed) and self.speed > 0):
            raise ModelError("a film's speed must be a number greater than zero")
        if self.follow is not None:
            tree.link(self.follow)
        for joint in self.say:
            if joint not in robot.joints or not robot.joints[joint].has_axis:
                moving = [name for name, one in robot.joints.items() if one.has_axis]
                hint = did_you_mean(joint, moving)
                raise ModelError(f"no moving joint is called {joint!r}{hint}")

    def values(self, robot: Robot, tree: Tree, q: Array) -> str:
        """The positions that the caption tells."""
        said = []
        for joint in self.say:
            dimension = dimension_of("position", robot.joints[joint].motion)
            said.append(f"{joint} {show(float(q[tree.coordinate(joint)]) + 0.0, dimension, 3)}")
        return "   ".join(said)


class Operator:
    """Holds the camera: everything is in view at any time."""

    def __init__(
        self, filming: Filming, tree: Tree, states: Array, points: Sequence[Array]
    ) -> None:
        """Fit the view.

        Args:
            filming: what is wanted.
            tree: of what is filmed.
            states: some instants, (k, n).
            points: what is seen in each of them, (n, 3) each [m].
        """
        self.filming, self.tree = filming, tree
        seen = np.concatenate(
            [cloud - self._place(q) for q, cloud in zip(states, points, strict=True)]
        )
        self.centre = (seen.min(axis=0) + seen.max(axis=0)) / 2
        if filming.turn:
            seen = self._around(seen)
        self.first = looking_at(seen, filming.view, filming.size[0] / filming.size[1])

    @staticmethod
    def looks(states: Array) -> Array:
        """The instants of a run that the view is fitted to."""
        return states[:: max(1, len(states) // _LOOKS)]

    def _place(self, q: Array) -> Array:
        """What the eye moves with."""
        if self.filming.follow is None:
            return np.zeros(3)
        return np.asarray(link_poses(self.tree, q))[self.tree.link(self.filming.follow), :3, 3]

    def _around(self, points: Array) -> Array:
        """Where points come when everything is turned about the vertical through the centre."""
        way = points - self.centre
        radius = np.linalg.norm(way[:, :2], axis=1).max()
        angles = np.linspace(0, 2 * np.pi, 24, endpoint=False)
        ring = radius * np.column_stack([np.cos(angles), np.sin(angles)])
        low, high = way[:, 2].min(), way[:, 2].max()
        rings = [np.column_stack([ring, np.full(len(ring), z)]) for z in (low, high)]
        return np.asarray(self.centre + np.concatenate(rings))

    def camera(self, q: Array, time: float) -> Camera:
        """The camera at a time of the film [s]."""
        eye = self.first
        if self.filming.turn:
            turn = rotation_about([0.0, 0.0, 1.0], self.filming.turn * time)
            eye = replace(
                eye,
                position=self.centre + turn @ (eye.position - self.centre),
                right=turn @ eye.right, up=turn @ eye.up, back=turn @ eye.back,
            )  # fmt: skip
        return replace(eye, position=eye.position + self._place(q))
