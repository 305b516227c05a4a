"""Parts that nobody can see from outside."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from mooring.cad.hierarchy import Boxes
from mooring.cad.part import Part
from mooring.cad.spreading import evenly, spread_over
from mooring.geometry import Array, apply

_POINTS = 400
_RAYS = 96


def hidden_parts(parts: Sequence[Part]) -> list[Part]:
    """The parts from whose surface no straight line leads out of the assembly.

    Rays start at 400 places on each part, in 96 directions each. A part that shows through a
    narrow gap only may be taken for hidden.
    """
    if not parts:
        return []
    everything = Boxes(np.concatenate([part.corners for part in parts]))
    size = float(np.ptp(np.concatenate([part.vertices for part in parts]), axis=0).max())
    directions = evenly(_RAYS)
    return [part for part in parts if not _seen(part, everything, directions, 1e-6 * size)]


def _seen(part: Part, everything: Boxes, directions: Array, off: float) -> bool:
    points, normals = spread_over(part.mesh, _POINTS)
    points = apply(part.placement, points)
    normals = normals @ part.placement[:3, :3].T
    sides = (1.0,) if part.geometry.closed else (1.0, -1.0)
    for side in sides:
        for point, normal in zip(points, side * normals, strict=True):
            outward = directions * np.where(directions @ normal < 0, -1.0, 1.0)[:, None]
            starts = np.broadcast_to(point + off * normal, outward.shape)
            if np.isinf(everything.hits(starts, outward)).any():
                return True
    return False
