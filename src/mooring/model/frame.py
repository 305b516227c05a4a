"""Frames on links: tool centre points, mounts, places for sensors."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field, model_validator

from mooring.model.definition.described import Described
from mooring.model.definition.markers import LinkName
from mooring.model.placement import Placement, PlacementField

Role = Literal["plain", "tool", "mount", "sensor"]
_PLACE = ("xyz", "rpy", "relative_to")


class LinkFrame(Described):
    """A coordinate system fixed to a link.

    Attributes:
        name: unique among the robot's frames.
        link: the link it is fixed to.
        role: what it is for: a tool's working point, a place to mount something, a sensor's place.
        at: where it is; its keys xyz, rpy and relative_to may stand beside it instead.
    """

    name: str = Field(exclude=True)
    link: LinkName
    role: Role = "plain"
    at: PlacementField = Field(default_factory=Placement)

    @model_validator(mode="before")
    @classmethod
    def _place_may_stand_beside(cls, value: Any) -> Any:
        if not isinstance(value, dict):
            return value
        beside = {key: value[key] for key in _PLACE if key in value}
        if not beside:
            return value
        if "at" in value:
            raise ValueError(f"give either 'at' or {', '.join(beside)}, not both")
        return {**{k: v for k, v in value.items() if k not in _PLACE}, "at": beside}

    def placed_on(self) -> str:
        return self.link
