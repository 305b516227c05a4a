"""What changes the place of a joint or a frame to that of a feature of the CAD."""

from __future__ import annotations

from typing import Any

import numpy as np

from mooring.formats.document.drafting.pointing import Feature
from mooring.formats.document.nodes import flow
from mooring.model import Robot
from mooring.page.desk.editing import Edits, KeyPath

_PARALLEL = 1e-6
_OF_NUMBERS = ("xyz", "rpy", "relative_to")


def place_by(
    robot: Robot, path: tuple[str, ...], edits: Edits, home: tuple[str, ...], feature: Feature
) -> dict[KeyPath, Any]:
    """The changes, by their paths in the document.

    An axis that is written beside the place stays where it says no more than the sense along the
    feature; where it says another direction, that of the feature counts from now on.

    Args:
        robot: as it is.
        path: of the place, by the names that the robot has for its items.
        edits: of the document in which it is written.
        home: the path there.
        feature: that it is to be on.
    """
    changes: dict[KeyPath, Any] = {home: flow(feature.at)}
    for key in _OF_NUMBERS:
        if edits.written((*home[:2], key)) is not None:
            changes[(*home[:2], key)] = None
    joint = robot.joints.get(path[1]) if path[0] == "joints" else None
    if joint is not None and edits.written((*home[:2], "axis")) is not None:
        place = robot.link_frames()[joint.parent]
        axis = (place @ joint.at.in_link(place))[:3, :3] @ np.array(joint.axis)
        if np.linalg.norm(np.cross(axis, feature.direction)) > _PARALLEL:
            changes[(*home[:2], "axis")] = None
    return changes
