"""Searches among triangles; see `native/cad/`."""

import numpy as np
from numpy.typing import NDArray

class Boxes:
    def __init__(self, triangles: NDArray[np.float64]) -> None: ...
    def nearest(
        self,
        points: NDArray[np.float64],
        distances: NDArray[np.float64],
        which: NDArray[np.int64],
    ) -> None: ...
    def first_hits(
        self,
        origins: NDArray[np.float64],
        directions: NDArray[np.float64],
        far: float,
        ways: NDArray[np.float64],
    ) -> None: ...
    def closest(self, some: NDArray[np.float64], enough: float) -> float: ...
    def facing(
        self,
        some: NDArray[np.float64],
        tolerance: float,
        cosine: float,
        marked: NDArray[np.bool_],
    ) -> None: ...

def crossings(
    triangles: NDArray[np.float64], points: NDArray[np.float64], out: NDArray[np.int64]
) -> None: ...
