"""The compiled tree with the names that its rows stand for."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array
from mooring.model.fields import Motion
from mooring.tree.arrays import JointArrays, LoopArrays, TreeArrays


@dataclass(frozen=True, eq=False)
class Tree:
    """A robot compiled to arrays; made by `robot.tree()`.

    Attributes:
        links: names of the bodies, in the order of the arrays; the root first.
        coordinates: names of the moving joints, in the order of q.
        motions: whether each coordinate is a rotation or a translation.
        arrays: the tree itself.
        loops: couplings and closures.
        joints: limits, damping and friction of each coordinate.
        neutral_frames: each link's frame in CAD coordinates at q = 0, (n_links, 4, 4).
        frames: the link's row and the place on it, (4, 4), of each named frame.
        without_mass: names of links whose mass properties are not known; they count as massless.
    """

    links: tuple[str, ...]
    coordinates: tuple[str, ...]
    motions: tuple[Motion, ...]
    arrays: TreeArrays
    loops: LoopArrays
    joints: JointArrays
    neutral_frames: Array
    frames: Mapping[str, tuple[int, Array]]
    without_mass: tuple[str, ...]

    @cached_property
    def _link_numbers(self) -> dict[str, int]:
        return {name: number for number, name in enumerate(self.links)}

    @cached_property
    def _coordinate_numbers(self) -> dict[str, int]:
        return {name: number for number, name in enumerate(self.coordinates)}

    def link(self, name: str) -> int:
        """The row of a link.

        Raises:
            ModelError: no link has that name.
        """
        if name not in self._link_numbers:
            raise ModelError(f"no link is called {name!r}{did_you_mean(name, self.links)}")
        return self._link_numbers[name]

    def coordinate(self, joint: str) -> int:
        """The place of a moving joint in q.

        Raises:
            ModelError: no moving joint has that name.
        """
        if joint not in self._coordinate_numbers:
            hint = did_you_mean(joint, self.coordinates)
            raise ModelError(f"no moving joint is called {joint!r}{hint}")
        return self._coordinate_numbers[joint]
