"""The kinematic tree; see `native/tree/` and `native/overlaps/`."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

JOINT_CODES: dict[str, int]
CORE_CODES: dict[str, int]

class Tree:
    def __init__(self, arrays: Any, loops: Any, joints: Any, springs: Any) -> None: ...
    def sound(self, q: Array) -> bool: ...
    def fit(self, q: Array, *others: Array) -> bool: ...
    def move(self, q: Array, v: Array, time: float) -> None: ...

class Shapes:
    def __init__(self, arrays: Any) -> None: ...

def finite(values: Array) -> bool: ...
