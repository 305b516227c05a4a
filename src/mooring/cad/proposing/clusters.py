"""Parts that cannot move against each other, and what is between such clusters."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from mooring.cad.proposing.survey import Survey, on_axis
from mooring.cad.touching.freedoms import Freedoms, freedoms_of
from mooring.cad.touching.mates import Fit, Mate, felt
from mooring.geometry import Array


@dataclass(eq=False)
class Between:
    """All that is known between two clusters.

    Attributes:
        mates: of their parts.
        of: the cluster of a part.
    """

    mates: list[Mate]
    of: Callable[[str], str]

    @cached_property
    def fits(self) -> list[Fit]:
        """All pins in bores, the widest first."""
        found = [fit for mate in self.mates for fit in mate.fits]
        return sorted(found, key=lambda fit: -fit.radius)

    @cached_property
    def axes(self) -> list[Fit]:
        """One fit for each axis there is."""
        kept: list[Fit] = []
        for fit in self.fits:
            if not any(on_axis(k.origin, k.direction, fit.origin, fit.direction) for k in kept):
                kept.append(fit)
        return kept

    @cached_property
    def area(self) -> float:
        """Of the faces that lie against each other, fits not counted [m^2]."""
        return sum(mate.area for mate in self.mates)

    @cached_property
    def pushes(self) -> tuple[Array, Array]:
        """Points and normals, out of the first mate's first cluster, where they only push."""
        side = self.of(self.mates[0].first)
        points = [mate.points for mate in self.mates]
        normals = [
            mate.normals if self.of(mate.first) == side else -mate.normals for mate in self.mates
        ]
        return np.concatenate(points), np.concatenate(normals)

    @cached_property
    def freedoms(self) -> Freedoms:
        """What the two can still do against each other."""
        ours = [felt(fit) for fit in self.fits]
        empty = np.zeros((0, 3))
        both = (
            np.concatenate([empty, *(p for p, _ in ours)]),
            np.concatenate([empty, *(n for _, n in ours)]),
        )
        return freedoms_of(both, self.pushes, any(mate.loose for mate in self.mates))


class Clusters:
    """Sets of parts that only ever grow together, and what is between them.

    Attributes:
        seen: what they are made of.
        members: names of the parts of each cluster.
        why: what joined them, in words.
        ties: round parts that might as well have gone with another: name, with which part it went,
            and the other.
    """

    def __init__(self, seen: Survey) -> None:
        self.seen = seen
        self._above = {name: name for name in seen.parts}
        self.members: dict[str, list[str]] = {name: [name] for name in seen.parts}
        self.why: dict[str, list[str]] = {}
        self.ties: dict[str, tuple[str, str]] = {}
        self._near: dict[str, dict[str, Between]] = {name: {} for name in seen.parts}
        for (a, b), mate in seen.mates.items():
            between = Between([mate], self.of)
            self._near[a][b] = self._near[b][a] = between

    def of(self, name: str) -> str:
        """The cluster of a part, called after one of its parts."""
        while self._above[name] != name:
            self._above[name] = self._above[self._above[name]]
            name = self._above[name]
        return name

    def join(self, one: str, other: str, why: str) -> bool:
        """Make one of the clusters of two parts; whether they were two."""
        a, b = self.of(one), self.of(other)
        if a == b:
            return False
        self._above[b] = a
        self.members[a] += self.members.pop(b)
        self.why.setdefault(a, []).extend([why, *self.why.pop(b, [])])
        for near, between in self._near.pop(b).items():
            del self._near[near][b]
            if near == a:
                continue
            known = self._near[a].get(near)
            whole = Between([*(known.mates if known else []), *between.mates], self.of)
            self._near[a][near] = self._near[near][a] = whole
        return True

    def near(self, root: str) -> dict[str, Between]:
        """What a cluster touches."""
        return self._near[root]

    def between(self, one: str, other: str) -> Between | None:
        """What is between two clusters, if they touch."""
        return self._near[one].get(other)

    def pairs(self) -> Iterator[tuple[str, str, Between]]:
        """All pairs of clusters that touch, each once, in a fixed order."""
        for a, near in self._near.items():
            for b, between in near.items():
                if a < b:
                    yield a, b, between

    def volume(self, root: str) -> float:
        """Of all parts of a cluster [m^3]."""
        return sum(abs(self.seen.parts[name].volume) for name in self.members[root])
