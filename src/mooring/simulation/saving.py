"""The whole state of a simulation, kept in memory or in a file."""

from __future__ import annotations

import json
from dataclasses import dataclass
from hashlib import sha256
from os import PathLike
from pathlib import Path
from typing import Any

import numpy as np

from mooring._native.simulation import State
from mooring.arguments import proven_methods
from mooring.brief import Brief
from mooring.errors import InputError
from mooring.files import write_whole
from mooring.geometry import Array

_FORMAT = "mooring-state-4"


@proven_methods
@dataclass(frozen=True, eq=False, repr=False)
class SavedState(Brief):
    """All that the steps to come depend on: what goes on from it is the uninterrupted run.

    Attributes:
        time: when it was saved [s].
        step: the time step it is for [s].
        coordinates: of the robot it is of.
        core: positions, velocities, contacts, motors, energies, what was noted.
        bonds: pairs of links held together, and the second's place on the first, (4, 4).
        limits: what each bond holds; see `Bonds`.
        grips: which are on, what they hold, what they lost.
        courses: where motors are on their way to.
        devices: their signals, and what waits to be done.
        noise: the state of each sensor's generator.
        recent: of each sensor the latest measurements, (times, values).

    Example:
        >>> from mooring import Simulation, demo, read
        >>> simulation = Simulation(read(demo.WALKER.document), posture="standing")
        >>> simulation.step(20)
        True
        >>> kept = simulation.save()
        >>> first = simulation.step(5), simulation.native.q.tobytes()
        >>> simulation.restore(kept)
        >>> first == (simulation.step(5), simulation.native.q.tobytes())
        True
    """

    time: float
    step: float
    coordinates: tuple[str, ...]
    core: State
    bonds: dict[tuple[str, str], Array]
    limits: dict[tuple[str, str], Array]
    grips: tuple[dict[str, bool], dict[str, str], tuple[tuple[float, str, str], ...]]
    courses: dict[str, tuple[list[float], float, list[list[float]]]]
    devices: dict[str, Any]
    noise: tuple[dict[str, Any], ...]
    recent: tuple[tuple[Array, Array] | None, ...]

    def write(self, file: str | PathLike[str], run: str = "") -> None:
        """Write it, whole or not at all; for the same version of Mooring.

        Args:
            file: where.
            run: of which run it is.
        """
        said = {
            "format": _FORMAT,
            "run": run,
            "time": self.time,
            "step": self.step,
            "coordinates": list(self.coordinates),
            "bonds": [[*pair, place.tolist()] for pair, place in self.bonds.items()],
            "limits": [
                [*pair, [None if np.isinf(v) else float(v) for v in row]]
                for pair, row in self.limits.items()
            ],
            "grips": [*self.grips[:2], list(self.grips[2])],
            "courses": self.courses,
            "devices": self.devices,
            "noise": list(self.noise),
            "recent": [r and [r[0].tolist(), r[1].tolist()] for r in self.recent],
        }
        whole = json.dumps(said).encode() + b"\n" + self.core.packed()
        with write_whole(Path(file)) as stream:
            stream.write(sha256(whole).hexdigest().encode() + b"\n" + whole)

    @staticmethod
    def read(file: str | PathLike[str], run: str = "") -> SavedState:
        """Read what `write` wrote.

        Args:
            file: where.
            run: of which run it must be; any if not given.

        Raises:
            InputError: there is no such file, or it holds no state that this version can read.
        """
        try:
            digest, _, whole = Path(file).read_bytes().partition(b"\n")
            if digest != sha256(whole).hexdigest().encode():
                raise ValueError("it is damaged, or something else")
            head, _, core = whole.partition(b"\n")
            said = json.loads(head)
            if said["format"] != _FORMAT:
                raise ValueError("it is of another version")
            if run and said["run"] != run:
                raise ValueError("it is of another run")
            return SavedState(
                float(said["time"]),
                float(said["step"]),
                tuple(said["coordinates"]),
                State.of(core),
                {(str(a), str(b)): np.array(place) for a, b, place in said["bonds"]},
                {
                    (str(a), str(b)): np.array([np.inf if v is None else v for v in row])
                    for a, b, row in said["limits"]
                },
                (
                    dict(said["grips"][0]),
                    dict(said["grips"][1]),
                    tuple((float(t), str(a), str(b)) for t, a, b in said["grips"][2]),
                ),
                {str(j): (list(c[0]), float(c[1]), list(c[2])) for j, c in said["courses"].items()},
                dict(said["devices"]),
                tuple(said["noise"]),
                tuple(r and (np.array(r[0]), np.array(r[1])) for r in said["recent"]),
            )
        except (OSError, ValueError, KeyError, TypeError) as error:
            raise InputError(f"{file}: not a saved state that can be used: {error}") from None
