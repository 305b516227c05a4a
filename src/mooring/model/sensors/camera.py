"""Cameras."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from mooring.geometry import Array
from mooring.model.definition.fields import Angle, Motion
from mooring.model.sensors.sensor import Mounted, Surroundings, View


class CameraSensor(Mounted):
    """Takes pictures along the x axis of its frame, z up.

    Attributes:
        kind: camera.
        field: horizontal angle of view [rad].
        size: width and height [pixels].
        channels: what a picture holds: color, depth, label.
    """

    probe: ClassVar[str] = "state"

    kind: Literal["camera"]
    field: Angle = Field(gt=0, lt=3.141592653589793)
    size: tuple[int, int] = (640, 480)
    channels: tuple[Literal["color", "depth", "label"], ...] = ("color",)

    @model_validator(mode="after")
    def _size_makes_sense(self) -> CameraSensor:
        if min(self.size) < 1 or max(self.size) > 8192:
            raise ValueError("the size must be from 1 to 8192 pixels")
        return self

    @property
    def view(self) -> View:
        return View(self.field, self.size, self.channels)

    def columns(self, units: Mapping[str, str]) -> dict[str, str]:
        return {}

    def look(self, surroundings: Surroundings, states: Array) -> Array:
        # Pictures are drawn when somebody wants them, of the scene in these states.
        return states

    def faults(self, exact: Array, random: np.random.Generator, motion: Motion) -> Array:
        return exact
