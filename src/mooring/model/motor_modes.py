"""How motors are driven: a record each. A new mode is a record here and a mode of the core."""

from __future__ import annotations

from dataclasses import dataclass

from mooring._native.simulation import MODE_CODES
from mooring.model.definition.variants import Variants


@dataclass(frozen=True)
class MotorMode:
    """How a motor is driven.

    Attributes:
        name: what documents call it.
        needs: the gains that it must have, of p, i and d.
        takes: the gains that it may have besides.
        commands: what it takes of position, velocity and effort; the first is its target.
        tracks_position, tracks_velocity: whether it closes a loop on the position or the velocity.
        prescribes: whether the joint moves as commanded, whatever effort that takes.
    """

    name: str
    needs: frozenset[str]
    takes: frozenset[str]
    commands: tuple[str, ...]
    tracks_position: bool
    tracks_velocity: bool
    prescribes: bool

    @property
    def code(self) -> int:
        """The code of the mode in the core."""
        return MODE_CODES[self.name]

    @property
    def closes_loop(self) -> bool:
        """Whether it controls the joint by gains."""
        return self.tracks_position or self.tracks_velocity

    @property
    def open_loop(self) -> bool:
        """Whether it gives the effort that is commanded."""
        return not self.closes_loop and not self.prescribes


_POSITION = MotorMode(
    "position", needs=frozenset("p"), takes=frozenset("id"),
    commands=("position", "velocity", "effort"),
    tracks_position=True, tracks_velocity=False, prescribes=False,
)  # fmt: skip
_VELOCITY = MotorMode(
    "velocity", needs=frozenset("d"), takes=frozenset(), commands=("velocity", "effort"),
    tracks_position=False, tracks_velocity=True, prescribes=False,
)  # fmt: skip
_EFFORT = MotorMode(
    "effort", needs=frozenset(), takes=frozenset(), commands=("effort",),
    tracks_position=False, tracks_velocity=False, prescribes=False,
)  # fmt: skip
_MOTION = MotorMode(
    "motion", needs=frozenset(), takes=frozenset(), commands=("position",),
    tracks_position=False, tracks_velocity=False, prescribes=True,
)  # fmt: skip

MOTOR_MODES: Variants[MotorMode] = Variants(
    "motor mode", MotorMode, lambda one: one.name, _POSITION, _VELOCITY, _EFFORT, _MOTION
)
