"""The renderer; see `native/drawing/`."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

def rasterise(
    screen: NDArray[np.float64],
    faces: NDArray[np.int64],
    top: int,
    depth: NDArray[np.float32],
    owner: NDArray[np.int32],
) -> None: ...
def draw_picture(
    solid: Any,
    glass: Any,
    on_top: Any,
    eye: Any,
    shadow: Any,
    ground: Any,
    ink: tuple[float, float, float],
    opacity: float,
    oversampling: int,
    threads: int,
    out: NDArray[np.uint8],
) -> None: ...
def corner_normals(
    vertices: NDArray[np.float64],
    faces: NDArray[np.int64],
    cosine: float,
    normals: NDArray[np.float64],
) -> None: ...
