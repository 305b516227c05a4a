"""Frames on links: tool centre points, mounts, places for sensors."""

from __future__ import annotations

from typing import Any, Literal, Self

import numpy as np
from pydantic import Field, ValidationInfo, model_validator

from mooring.cad import Axis
from mooring.geometry import Array, placement
from mooring.model.definition.described import Described
from mooring.model.definition.markers import LinkName
from mooring.model.definition.problems import EntryError
from mooring.model.placement import Placement, PlacementField, found_at

Role = Literal["plain", "tool", "mount", "sensor"]
_PLACE = ("xyz", "rpy", "relative_to")


class LinkFrame(Described):
    """A coordinate system fixed to a link.

    Attributes:
        name: unique among the robot's frames.
        link: the link it is fixed to.
        role: what it is for: a tool's working point, a place to mount something, a sensor's place.
        at: where it is; its keys xyz, rpy and relative_to may stand beside it instead. On a face
            of the CAD z looks out of it; x does for a sensor, which looks along x.
        outward: whether z looks out of a face, so that two such frames are joined face to face;
            follows from `at` where that is found on a face.
    """

    name: str = Field(exclude=True)
    link: LinkName
    role: Role = "plain"
    at: PlacementField = Field(default_factory=Placement)
    outward: bool = False

    @model_validator(mode="before")
    @classmethod
    def _place_may_stand_beside(cls, value: Any, info: ValidationInfo) -> Any:
        if not isinstance(value, dict):
            return value
        beside = {key: value[key] for key in _PLACE if key in value}
        if not beside:
            return _on_face(value, info)
        if "at" in value:
            raise ValueError(f"give either 'at' or {', '.join(beside)}, or write both inside 'at'")
        return {**{k: v for k, v in value.items() if k not in _PLACE}, "at": beside}

    def placed_on(self) -> str:
        return self.link

    def mirrored(self, mirror: Array) -> Self:
        image = super().mirrored(mirror)
        if not self.outward or mirror[2, 2] > 0:
            return image
        # In that mirror z would look into the face.
        turned = image.at.matrix @ placement(rotation=np.diag([1.0, -1.0, -1.0]))
        return image.model_copy(update={"at": Placement(turned, image.at.relative_to)})


def _on_face(value: dict[str, Any], info: ValidationInfo) -> dict[str, Any]:
    """An entry whose frame on a face of the CAD looks out of it."""
    at = found_at(value, info)
    if not isinstance(at, Axis) or not at.outward:
        return {**value, "at": at} if "at" in value else value
    if value.get("role") != "sensor":
        return {"outward": True, **value, "at": at.frame()}
    if at.x is not None:
        text = "a sensor on a face looks out of it along x; turn it with rpy instead"
        raise EntryError("frame", [(("at", "x"), text)])
    return {**value, "at": at.sight()}
