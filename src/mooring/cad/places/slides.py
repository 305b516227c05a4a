"""Finding the direction in which faces of two groups of parts slide along each other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from mooring.cad.part import Part
from mooring.cad.places.axis import Axis, with_usual_sign
from mooring.cad.touching.meetings import meeting_of
from mooring.errors import ModelError
from mooring.geometry import Array


def shared_slide(first: Sequence[Part], second: Sequence[Part], tolerance: float) -> Axis:
    """The direction in which faces of two groups of parts slide along each other.

    Raises:
        ModelError: their faces do not touch, or leave more or less than one way to slide.
    """
    meetings = [meeting_of(one, other, tolerance) for one in first for other in second]
    points = np.concatenate([meeting.points for meeting in meetings])
    normals = np.concatenate([meeting.normals for meeting in meetings])
    names = f"{first[0].name} and {second[0].name}"
    if not len(points):
        raise ModelError(f"no faces of {names} lie against each other")
    direction = slide_direction(normals)
    if direction is None:
        raise ModelError(
            f"the faces of {names} that lie against each other leave more than one way to slide, "
            "or none; give the axis instead"
        )
    return Axis(points.mean(axis=0), direction, 0.0, f"faces of {names}")


def slide_direction(normals: Array) -> Array | None:
    """The only direction in which faces with these normals can slide past each other, or None."""
    if len(normals) < 2:
        return None
    spread, directions = np.linalg.eigh(normals.T @ normals / len(normals))
    if spread[0] < 1e-6 and spread[1] > 1e-3:
        return with_usual_sign(directions[:, 0])
    return None
