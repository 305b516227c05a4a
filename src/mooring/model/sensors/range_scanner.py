"""Range scanners."""

from __future__ import annotations

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from mooring.geometry import Array
from mooring.model.definition.fields import Angle, Length, Motion
from mooring.model.sensors.sensor import Mounted, Surroundings, noisy


class RangeScanner(Mounted):
    """Measures distances along rays that fan out about the z axis of its frame.

    Attributes:
        kind: range_scanner.
        field: angle of the fan [rad], with its middle along x.
        rays: how many in a layer.
        layers: how many fans, one above the other.
        layer_field: angle from the lowest to the highest layer [rad].
        nearest, farthest: distances it can measure [m]; it looks through what is nearer.
        noise: standard deviation of a distance [m].
    """

    probe: ClassVar[str] = "state"

    kind: Literal["range_scanner"]
    field: Angle = Field(gt=0, le=6.283185307179587)
    rays: int = Field(ge=2, le=100_000)
    layers: int = Field(default=1, ge=1, le=1024)
    layer_field: Angle = Field(default=0.0, ge=0, allow_inf_nan=False)
    nearest: Length = Field(default=0.0, ge=0, allow_inf_nan=False)
    farthest: Length = Field(default=30.0, gt=0)
    noise: Length = Field(default=0.0, ge=0, allow_inf_nan=False)

    @model_validator(mode="after")
    def _nearest_is_nearer(self) -> RangeScanner:
        if self.nearest >= self.farthest:
            raise ValueError("nearest must be nearer than farthest")
        return self

    def columns(self, units: Mapping[str, str]) -> dict[str, str]:
        return {f"{layer}.{ray}": "m" for layer in range(self.layers) for ray in range(self.rays)}

    def faults(self, exact: Array, random: np.random.Generator, motion: Motion) -> Array:
        return noisy(exact, random, self.noise)

    @property
    def fan(self) -> tuple[int, int]:
        return self.layers, self.rays

    def directions(self) -> Array:
        """The directions of its rays in its own axes, (layers * rays, 3), layer by layer."""
        whole = self.field > 2 * np.pi - 1e-9
        across = np.linspace(-self.field / 2, self.field / 2, self.rays, endpoint=not whole)
        up = np.linspace(-self.layer_field / 2, self.layer_field / 2, self.layers)
        up = up if self.layers > 1 else np.zeros(1)
        rise, turn = np.meshgrid(up, across, indexing="ij")
        level = np.cos(rise)
        found = np.stack([level * np.cos(turn), level * np.sin(turn), np.sin(rise)], axis=-1)
        return np.asarray(found.reshape(-1, 3))

    def look(self, surroundings: Surroundings, states: Array) -> Array:
        own = self.directions()
        found = []
        for q in states:
            frame = surroundings.frame(self, q)
            origins = np.broadcast_to(frame[:3, 3], own.shape)
            turned = own @ frame[:3, :3].T
            found.append(surroundings.distances(origins, turned, q, self.nearest, self.farthest))
        return np.array(found).reshape(len(states), len(own))
