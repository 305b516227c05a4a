"""All that is seen of an assembly before anything is decided."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from mooring import announcing
from mooring.cad.assembly import Assembly
from mooring.cad.part import Part
from mooring.cad.tidying.hardware import Hardware
from mooring.cad.touching.meetings import Meeting, meeting_of
from mooring.cad.touching.revolution import Round, roundness
from mooring.geometry import Array

ROUND = 0.04
"""A part is a body of revolution when no more of its surface is uneven."""


@dataclass(eq=False)
class Survey:
    """The parts of an assembly and how they touch.

    Attributes:
        assembly: as it was read.
        tolerance: how far apart parts may be and still touch [m].
        parts: by name.
        meetings: of each pair of parts that touch.
        rounds: of each part the axis it is round about, if any.
        rolling: names of the balls, rollers and cages of bearings.
        hardware: the kinds of parts that clamp or thread.
    """

    assembly: Assembly
    tolerance: float
    parts: dict[str, Part] = field(default_factory=dict)
    meetings: dict[tuple[str, str], Meeting] = field(default_factory=dict)
    rounds: dict[str, Round | None] = field(default_factory=dict)
    rolling: set[str] = field(default_factory=set)
    hardware: list[Hardware] = field(default_factory=list)

    @cached_property
    def screws(self) -> set[str]:
        """The names of all hardware."""
        return {part.name for kind in self.hardware for part in kind.parts}

    @cached_property
    def size(self) -> float:
        """The diagonal of the whole [m]."""
        low, high = self.assembly.bounds
        return float(np.linalg.norm(high - low))

    @cached_property
    def bounds(self) -> Array:
        """Lowest and highest coordinates of each part, in their order, (n, 2, 3) [m]."""
        found = [[p.vertices.min(axis=0), p.vertices.max(axis=0)] for p in self.parts.values()]
        return np.array(found)

    @cached_property
    def neighbours(self) -> dict[str, list[str]]:
        """The parts that each part touches."""
        found: dict[str, list[str]] = {name: [] for name in self.parts}
        for a, b in self.meetings:
            found[a].append(b)
            found[b].append(a)
        return found

    def exchange(self, gone: Iterable[tuple[str, str]], new: Meeting) -> None:
        """Put one meeting in the place of others."""
        for pair in gone:
            del self.meetings[pair]
        self.meetings[new.first, new.second] = new
        # They were found from the meetings.
        self.__dict__.pop("neighbours", None)

    def meeting(self, one: str, other: str) -> Meeting:
        """How two parts that touch do so."""
        known = self.meetings.get((one, other))
        return self.meetings[other, one] if known is None else known

    @cached_property
    def told_apart(self) -> bool:
        """Whether the CAD's tree sorts parts at all."""
        return len({folder(part) for part in self.parts.values()}) > 1

    def together(self, a: str, b: str) -> bool:
        """Whether the CAD's tree keeps two parts in one sub-assembly, and not all parts in it."""
        return self.told_apart and folder(self.parts[a]) == folder(self.parts[b])

    def is_round(self, name: str) -> bool:
        """Whether a part is a body of revolution."""
        axis = self.rounds[name]
        return axis is not None and axis.uneven <= ROUND


def usual_tolerance(assembly: Assembly) -> float:
    """How far apart parts may be and still touch, by the size of the whole [m]."""
    low, high = assembly.bounds
    size = float(np.linalg.norm(high - low))
    return max(min(5e-4, size / 200), size / 8000)


def survey(assembly: Assembly, tolerance: float) -> Survey:
    """Look at every part, and at every pair that touch."""
    seen = Survey(assembly, tolerance, {part.name: part for part in assembly.parts})
    axes: dict[int, Round | None] = {}
    for part in assembly.parts:
        key = id(part.geometry)
        if key not in axes:
            axes[key] = roundness(part.geometry)
        own = axes[key]
        seen.rounds[part.name] = None if own is None else own.placed(part.placement)
    seen.hardware = assembly.hardware()
    contacts = assembly.touching(tolerance)
    for number, contact in enumerate(contacts):
        if number % 64 == 0:
            announcing.progress(number, len(contacts))
        pair = (contact.first, contact.second)
        seen.meetings[pair] = meeting_of(seen.parts[pair[0]], seen.parts[pair[1]], tolerance)
    return seen


def folder(part: Part) -> str:
    """The sub-assembly that a part is in."""
    return part.path.rpartition("/")[0]
