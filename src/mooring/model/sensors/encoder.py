"""Encoders."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from mooring.geometry import Array
from mooring.model.definition.fields import Motion
from mooring.model.sensors.sensor import OnJoint


class Encoder(OnJoint):
    """Measures a joint's position.

    Attributes:
        kind: encoder.
        joint: whose.
        counts: steps a turn, or a metre; it is exact if not given.
    """

    probe: ClassVar[str] = "position"

    kind: Literal["encoder"]
    counts: int | None = Field(default=None, gt=0)

    def columns(self, units: Mapping[str, str]) -> dict[str, str]:
        return {"position": units.get(self.joint, "")}

    def faults(self, exact: Array, random: np.random.Generator, motion: Motion) -> Array:
        if self.counts is None:
            return exact[:, :1]
        size = (2 * np.pi if motion == "rotation" else 1.0) / self.counts
        return np.asarray(np.floor(exact[:, :1] / size + 1e-9) * size)
