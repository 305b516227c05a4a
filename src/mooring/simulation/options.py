"""The options of `Simulation`, for calls that hand them on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from os import PathLike
from typing import Literal, TypedDict

from numpy.typing import ArrayLike

from mooring.model import MotionStep
from mooring.model.scene import Ground
from mooring.simulation.simulation import Controller, Stepper


class SimulationOptions(TypedDict, total=False):
    """As `Simulation` takes and explains them."""

    motion: str | Sequence[MotionStep | Mapping[str, object]] | None
    posture: str | Mapping[str, float | str] | None
    velocities: Mapping[str, float] | None
    powered: bool
    step: float | str | None
    rate: float | str | None
    gravity: ArrayLike | None
    ground: Ground | Literal["below", "none"] | None
    contact: bool
    stepper: Stepper
    controllers: Sequence[tuple[Controller, float | str]]
    seed: int | None
    keep: float | str | None
    journal: str | PathLike[str] | None
    sleep: bool
    threads: int | None
    accuracy: float | str
