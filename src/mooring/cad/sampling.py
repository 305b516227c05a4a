"""How finely curved surfaces are turned into triangles."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Sampling:
    """The largest deviations of triangles from the true surface.

    Attributes:
        length: distance [m].
        angle: between neighbouring triangles' normals [rad].
    """

    length: float = 5e-4
    angle: float = float(np.radians(20))
