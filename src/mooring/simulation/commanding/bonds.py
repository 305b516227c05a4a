"""Links that hold each other as they are, for ever or up to a force."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from mooring.errors import ModelError
from mooring.geometry import Array, inverse
from mooring.kinematics import link_poses

if TYPE_CHECKING:
    from mooring._native.simulation import Simulation as Native
    from mooring.tree import Tree

Pair = tuple[str, str]
NO_LIMITS = np.array([0.0, 0.0, 1.0, math.inf, math.inf, math.inf])
"""An axis of the first; what holds pulled along it, across it [N], and turned [N m]."""


class Bonds:
    """The bonds of a simulation.

    Attributes:
        places: of the second on the first, (4, 4), by pair.
        limits: what each holds, (6,); see `NO_LIMITS`.
    """

    def __init__(self, tree: Tree, native: Native) -> None:
        """None yet."""
        self._tree, self._native = tree, native
        self.places: dict[Pair, Array] = {}
        self.limits: dict[Pair, Array] = {}

    def hold(self, first: str, second: str, limits: Array = NO_LIMITS) -> None:
        """Hold two links together as they are now, up to limits.

        Raises:
            ModelError: no link has such a name, or both are one.
        """
        a, b = self._tree.link(first), self._tree.link(second)
        if a == b:
            raise ModelError(f"{first!r} cannot be attached to itself")
        self.torn()
        poses = link_poses(self._tree, self._native.q)
        self._forget(first, second)
        self.places[first, second] = inverse(poses[a]) @ poses[b]
        self.limits[first, second] = limits
        self._tell()

    def release(self, first: str, second: str) -> None:
        """Let two links go; they may never have been held.

        Raises:
            ModelError: no link has such a name.
        """
        self._tree.link(first), self._tree.link(second)
        self.torn()
        if self._forget(first, second):
            self._tell()

    def torn(self) -> list[Pair]:
        """Which have let go since this was last asked."""
        links = self._tree.links
        there = {(links[first], links[second]) for first, second in self._native.bonds}
        gone = [pair for pair in self.places if pair not in there]
        for pair in gone:
            self._forget(*pair)
        return gone

    def _forget(self, first: str, second: str) -> bool:
        held = [pair for pair in self.places if set(pair) == {first, second}]
        for pair in held:
            del self.places[pair], self.limits[pair]
        return bool(held)

    def _tell(self) -> None:
        ends = np.array(
            [[self._tree.link(name) for name in pair] for pair in self.places], dtype=np.int64
        ).reshape(-1, 2)
        first, second = np.ascontiguousarray(ends.T)
        frames = np.array(list(self.places.values())).reshape(-1, 4, 4)
        limits = np.array(list(self.limits.values())).reshape(-1, 6)
        self._native.set_bonds(first, second, frames, limits)
