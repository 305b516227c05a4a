"""The compiled tree with the names that its rows stand for."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from mooring._native.tree import Tree as NativeTree
from mooring.brief import Brief
from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array, inverse, quaternion
from mooring.tree.arrays import (
    FLOATING,
    JointArrays,
    LoopArrays,
    Motion,
    SpringArrays,
    TreeArrays,
)


@dataclass(frozen=True, eq=False, repr=False)
class Tree(Brief):
    """A robot compiled to arrays; made by `robot.tree()`.

    Attributes:
        links: names of the bodies, in the order of the arrays; the root first.
        coordinates: names in the order of q: of the moving joints, and for a floating one
            `<joint>.x`, `.y`, `.z`, `.qx`, `.qy`, `.qz`, `.qw`; a floating base is called `base`.
        freedoms: names in the order of v: the same, but for a floating joint `<joint>.wx`, `.wy`,
            `.wz`, `.vx`, `.vy`, `.vz`, in the axes of the link that floats.
        motions: whether each freedom is a rotation or a translation.
        arrays: the tree itself.
        loops: couplings and closures.
        loop_names: of each coupling and closure, as messages call it.
        joints: limits, damping and friction of each freedom.
        springs: between bodies.
        neutral_frames: each link's frame in CAD coordinates at q = 0, (n_links, 4, 4).
        frames: the link's row and the place on it, (4, 4), of each named frame.
        without_mass: names of links whose mass properties are not known; they count as massless.
    """

    links: tuple[str, ...]
    coordinates: tuple[str, ...]
    freedoms: tuple[str, ...]
    motions: tuple[Motion, ...]
    arrays: TreeArrays
    loops: LoopArrays
    loop_names: tuple[str, ...]
    joints: JointArrays
    springs: SpringArrays
    neutral_frames: Array
    frames: Mapping[str, tuple[int, Array]]
    without_mass: tuple[str, ...]

    @cached_property
    def native(self) -> NativeTree:
        """The same for the compiled core, which keeps a copy of the arrays."""
        return NativeTree(self.arrays, self.loops, self.joints, self.springs)

    @cached_property
    def _link_numbers(self) -> dict[str, int]:
        return {name: number for number, name in enumerate(self.links)}

    @cached_property
    def _coordinate_numbers(self) -> dict[str, int]:
        return {name: number for number, name in enumerate(self.coordinates)}

    @cached_property
    def _freedom_numbers(self) -> dict[str, int]:
        return {name: number for number, name in enumerate(self.freedoms)}

    def neutral(self) -> Array:
        """q with every joint at zero and everything that floats where the CAD has it, (n,)."""
        q = np.zeros(len(self.coordinates))
        for body in np.flatnonzero(self.arrays.kind == FLOATING):
            first, parent = self.arrays.coordinate[body], self.arrays.parent[body]
            place = self.neutral_frames[body]
            if parent >= 0:
                place = inverse(self.neutral_frames[parent]) @ place
            q[first : first + 3] = place[:3, 3]
            q[first + 3 : first + 7] = quaternion(place[:3, :3])
        return q

    def moved(self, q: Array, v: Array, time: float = 1.0) -> Array:
        """Where velocities v (m,), kept for a time [s], lead from q (n,); a copy.

        What floats goes along a straight line and turns about a fixed axis.
        """
        there = np.array(q, dtype=float)
        self.native.move(there, np.ascontiguousarray(v, dtype=float), time)
        return there

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

    def freedom(self, joint: str) -> int:
        """The place of a moving joint in v.

        Raises:
            ModelError: no turning or sliding joint has that name.
        """
        if joint not in self._freedom_numbers:
            hint = did_you_mean(joint, self.freedoms)
            raise ModelError(f"no moving joint is called {joint!r}{hint}")
        return self._freedom_numbers[joint]
