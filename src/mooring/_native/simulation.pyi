"""Scenes that are stepped; see `native/simulation/` and `native/contact/`."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from mooring._native.tree import Tree

Array = NDArray[np.float64]

MODE_CODES: dict[str, int]
PROFILE_CODES: dict[str, int]
GROUND_CODES: dict[str, int]
READING_CODES: dict[str, int]
COMMAND_CODES: dict[str, int]
PROBES: list[str]
LAWS: list[str]

class State:
    @staticmethod
    def of(bytes: bytes) -> State: ...
    def packed(self) -> bytes: ...

class Simulation:
    steps: int
    widths: list[int]
    repeating: tuple[int, int]
    q: Array
    v: Array
    effort: Array
    integral: Array
    held: NDArray[np.bool_]
    relaxed: NDArray[np.bool_]
    position: Array
    velocity: Array
    added: Array
    push: Array
    belt: Array
    rotor: Array
    rotor_speed: Array
    bonds: list[tuple[int, int]]
    touching: list[tuple[int, int, float]]
    awake: NDArray[np.bool_]
    def __init__(
        self,
        tree: Tree,
        motors: Any,
        forces: Any,
        scenery: Any,
        sensors: Any,
        timeline: Any,
        settings: Any,
        accurate: bool,
        q: Array,
        v: Array,
    ) -> None: ...
    def run(self, count: int) -> tuple[bool, int]: ...
    def take(self) -> dict[str, Any]: ...
    def measured(self) -> tuple[NDArray[np.int64], Array, Array]: ...
    def recorded(self) -> tuple[int, int]: ...
    def noted(self) -> dict[str, Any]: ...
    def save(self) -> State: ...
    def restore(self, saved: State) -> None: ...
    def set_bonds(
        self, first: NDArray[np.int64], second: NDArray[np.int64], frames: Array, limits: Array
    ) -> None: ...

class Batch:
    def __init__(
        self,
        first: Simulation,
        count: int,
        threads: int,
        readings: NDArray[np.int64],
        tellings: NDArray[np.int64],
    ) -> None: ...
    def run(self, count: int, wanted: NDArray[np.bool_], exploded: NDArray[np.bool_]) -> None: ...
    def read(self, out: Array) -> None: ...
    def tell(self, values: Array, wanted: NDArray[np.bool_]) -> None: ...
    def begin(self, member: int, state: State, q: Array, v: Array) -> None: ...
