"""Suction cups and magnets: what they take, hold and lose."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from mooring.errors import ModelError, did_you_mean

if TYPE_CHECKING:
    from mooring.simulation.simulation import Simulation


class Grips:
    """The grips of a simulation.

    Attributes:
        on: whether each is on, by name.
        held: the link that each holds, by name; empty where it holds none.
        lost: what was pulled off: the time [s], the grip, and the link.
    """

    def __init__(self, simulation: Simulation) -> None:
        """All as they are at the start."""
        self._simulation = simulation
        self._grips = dict(simulation.robot.grips.items())
        self.on = {name: grip.on for name, grip in self._grips.items()}
        self.held = dict.fromkeys(self._grips, "")
        self.lost: list[tuple[float, str, str]] = []

    def save(self) -> tuple[dict[str, bool], dict[str, str], tuple[tuple[float, str, str], ...]]:
        """For `restore`."""
        return dict(self.on), dict(self.held), tuple(self.lost)

    def restore(
        self, saved: tuple[dict[str, bool], dict[str, str], tuple[tuple[float, str, str], ...]]
    ) -> None:
        """Go back, or on, to what was saved."""
        self.on, self.held, self.lost = dict(saved[0]), dict(saved[1]), list(saved[2])

    @property
    def seeking(self) -> bool:
        """Whether one is on, and so has to look or to hold at every step."""
        return any(self.on.values())

    def switch(self, name: str, on: bool) -> None:
        """Switch one on or off.

        Raises:
            ModelError: none has that name.
        """
        if name not in self._grips:
            raise ModelError(f"no grip is called {name!r}{did_you_mean(name, list(self._grips))}")
        self.on[name] = on
        if not on and self.held[name]:
            self._simulation.release(self._link(name), self.held[name])
            self.held[name] = ""

    def _link(self, name: str) -> str:
        return self._simulation.robot.frames[self._grips[name].frame].link

    def look(self) -> None:
        """Take what is touched, and notice what was lost."""
        if not self.seeking:
            return
        simulation = self._simulation
        torn = set(simulation.bonds.torn())
        for name, held in self.held.items():
            if held and (self._link(name), held) in torn:
                self.held[name] = ""
                self.on[name] = False
                self.lost.append((simulation.time, name, held))
        for name, on in self.on.items():
            if on and not self.held[name]:
                self._take(name)

    def _take(self, name: str) -> None:
        simulation, grip = self._simulation, self._grips[name]
        tree = simulation.tree
        body, frame = tree.frames[grip.frame]
        near = [
            (gap, second if first == body else first)
            for first, second, gap in simulation.native.touching
            if body in (first, second) and min(first, second) >= 0 and gap <= grip.reach
        ]
        if not near:
            return
        other = tree.links[min(near)[1]]

        def most(force: float | None, otherwise: float) -> float:
            return otherwise if force is None else force

        limits = [grip.force, most(grip.shear, grip.force), most(grip.moment, math.inf)]
        simulation.bonds.hold(self._link(name), other, np.array([*frame[:3, 2], *limits]))
        self.held[name] = other
