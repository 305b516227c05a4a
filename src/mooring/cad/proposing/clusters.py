"""Parts that cannot move against each other, and what is between such clusters."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from mooring.cad.proposing.survey import Survey
from mooring.cad.proposing.unions import Unions
from mooring.cad.touching.freedoms import Freedoms, freedoms_of
from mooring.cad.touching.lines import same_axis
from mooring.cad.touching.meetings import Fit, Meeting, felt
from mooring.geometry import Array


@dataclass(eq=False)
class Between:
    """All that is known between two clusters.

    Attributes:
        meetings: of their parts.
        of: the cluster of a part.
    """

    meetings: list[Meeting]
    of: Callable[[str], str]

    @cached_property
    def fits(self) -> list[Fit]:
        """All pins in bores, the widest first."""
        found = [fit for meeting in self.meetings for fit in meeting.fits]
        return sorted(found, key=lambda fit: -fit.radius)

    @cached_property
    def axes(self) -> list[Fit]:
        """One fit for each axis there is."""
        kept: list[Fit] = []
        for fit in self.fits:
            if not any(same_axis(k, fit) for k in kept):
                kept.append(fit)
        return kept

    @cached_property
    def area(self) -> float:
        """Of the faces that lie against each other, fits not counted [m^2]."""
        return sum(meeting.area for meeting in self.meetings)

    @cached_property
    def pushes(self) -> tuple[Array, Array]:
        """Points and normals, out of the first meeting's first cluster, where they only push."""
        side = self.of(self.meetings[0].first)
        points = [meeting.points for meeting in self.meetings]
        normals = [
            meeting.normals if self.of(meeting.first) == side else -meeting.normals
            for meeting in self.meetings
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
        return freedoms_of(both, self.pushes, any(meeting.loose for meeting in self.meetings))


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
        self._unions = Unions(seen.parts)
        self.members: dict[str, list[str]] = {name: [name] for name in seen.parts}
        self.why: dict[str, list[str]] = {}
        self.ties: dict[str, tuple[str, str]] = {}
        self._near: dict[str, dict[str, Between]] = {name: {} for name in seen.parts}
        for (a, b), meeting in seen.meetings.items():
            between = Between([meeting], self.of)
            self._near[a][b] = self._near[b][a] = between

    def of(self, name: str) -> str:
        """The cluster of a part, called after one of its parts."""
        return self._unions.of(name)

    def join(self, one: str, other: str, why: str) -> bool:
        """Make one of the clusters of two parts; whether they were two."""
        a, b = self.of(one), self.of(other)
        if a == b:
            return False
        self._unions.join(a, b)
        self.members[a] += self.members.pop(b)
        self.why.setdefault(a, []).extend([why, *self.why.pop(b, [])])
        for near, between in self._near.pop(b).items():
            del self._near[near][b]
            if near == a:
                continue
            known = self._near[a].get(near)
            whole = Between([*(known.meetings if known else []), *between.meetings], self.of)
            self._near[a][near] = self._near[near][a] = whole
        return True

    def near(self, root: str) -> dict[str, Between]:
        """What a cluster touches."""
        return self._near[root]

    def between(self, one: str, other: str) -> Between | None:
        """What is between two clusters, if they touch."""
        return self._near[one].get(other)

    def touching_parts(self, one: str, other: str) -> tuple[str, str]:
        """Two parts by which two clusters touch, the pin and the bore if there are such."""
        between = self.between(self.of(one), self.of(other))
        if between is None:
            return one, other
        if between.fits:
            return between.fits[0].pin, between.fits[0].bore
        return between.meetings[0].first, between.meetings[0].second

    def pairs(self) -> Iterator[tuple[str, str, Between]]:
        """All pairs of clusters that touch, each once, in a fixed order."""
        for a, near in self._near.items():
            for b, between in near.items():
                if a < b:
                    yield a, b, between

    def volume(self, root: str) -> float:
        """Of all parts of a cluster [m^3]."""
        return sum(abs(self.seen.parts[name].volume) for name in self.members[root])
