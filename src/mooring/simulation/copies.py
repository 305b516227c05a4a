"""Many equal robots with different states and parameters, run at once on all cores."""

from __future__ import annotations

import copy
import threading
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np

from mooring import announcing
from mooring.errors import ModelError, did_you_mean, told
from mooring.geometry import Array
from mooring.kinematics.loops.closing import close_loops
from mooring.simulation.recording.recording import Recording
from mooring.simulation.running import run_length, run_until
from mooring.simulation.simulation import Simulation
from mooring.threads import most_threads

Values = Sequence[float] | tuple[float, float]


def run_copies(
    simulation: Simulation, copies: int, vary: Mapping[str, Values], seconds: float | str | None
) -> list[Recording]:
    """Run copies of a simulation that has not begun; see `simulate`.

    Every copy is stepped by compiled code that holds no lock, so as many go at once as there are
    cores; what comes out does not depend on how many.

    Raises:
        ModelError: an unknown thing to vary, or too many or too few values for it.
    """
    if simulation.recorder.journal is not None:
        raise ModelError("copies keep no journal; write their recordings when they are done")
    if copies < 1:
        raise ModelError(f"there must be at least one copy, got {copies}")
    random = np.random.default_rng([simulation.seed, 1])
    values = {key: _values(key, said, copies, random) for key, said in vary.items()}
    for key in values:
        _change_of(simulation, key)
    length = run_length(simulation, seconds)

    reached_by = np.zeros(copies)
    turn = threading.Lock()

    def tell(number: int, reached: float) -> None:
        with turn:
            reached_by[number] = reached
            announcing.progress(float(reached_by.sum()), length * copies)

    def one(number: int) -> Recording:
        twin = _twin(simulation, number)
        for key, row in values.items():
            _change_of(twin, key)(float(row[number]))
        # The compiled core keeps copies of what has been changed in place.
        twin.tree = replace(twin.tree)
        twin.reset()
        run_until(twin, length, lambda reached, _: tell(number, reached))
        return twin.recording

    with ThreadPoolExecutor(most_threads()) as pool:
        return list(pool.map(one, range(copies)))


def _values(key: str, said: Values, copies: int, random: np.random.Generator) -> Array:
    if isinstance(said, tuple) and len(said) == 2:
        if not np.isfinite(said).all():
            raise ModelError(f"{key}: the values must be finite, got {told(said)}")
        return random.uniform(said[0], said[1], copies)
    row = np.asarray(said, dtype=float)
    if not np.isfinite(row).all():
        raise ModelError(f"{key}: the values must be finite, got {told(said)}")
    if row.shape != (copies,):
        raise ModelError(
            f"{key}: give {copies} values, one a copy, or a pair (lowest, highest) to draw from"
        )
    return row


def _twin(simulation: Simulation, number: int) -> Simulation:
    """A simulation of the same, with arrays of its own where copies may differ."""
    twin = copy.copy(simulation)
    tree = simulation.tree
    arrays = tree.arrays._replace(mass=tree.arrays.mass.copy(), tensor=tree.arrays.tensor.copy())
    joints = tree.joints._replace(
        damping=tree.joints.damping.copy(), friction=tree.joints.friction.copy()
    )
    twin.tree = replace(tree, arrays=arrays, joints=joints)
    motors = simulation.motors
    twin.motors = motors._replace(p=motors.p.copy(), d=motors.d.copy())
    twin.contact = simulation.contact._replace(surface=simulation.contact.surface.copy())
    twin.start_q, twin.start_v = simulation.start_q.copy(), simulation.start_v.copy()
    twin.seed = simulation.seed + number
    return twin


def _change_of(simulation: Simulation, key: str) -> Callable[[float], None]:
    """What sets a value by its name, such as `slew.position` or `boom.mass`."""
    tree = simulation.tree
    name, _, what = key.rpartition(".")
    if key in tree.coordinates:
        return _setter(simulation.start_q, tree.coordinate(key))
    if key in tree.freedoms:
        return _setter(simulation.start_v, tree.freedom(key))
    if what == "position" and name in tree.coordinates:

        def move(value: float) -> None:
            simulation.start_q[tree.coordinate(name)] = value
            simulation.start_q = close_loops(tree, simulation.start_q, [name])
            simulation.hold_start()

        return move
    if what in ("velocity", "damping", "friction") and name in tree.freedoms:
        rows = {
            "velocity": simulation.start_v, "damping": tree.joints.damping,
            "friction": tree.joints.friction,
        }  # fmt: skip
        return _setter(rows[what], tree.freedom(name))
    if what == "mass" and name in tree.links:
        body = tree.link(name)

        def weigh(value: float) -> None:
            if value <= 0:
                raise ModelError(f"{key} must be greater than zero, got {value:g}")
            tree.arrays.tensor[body] *= value / max(tree.arrays.mass[body], 1e-300)
            tree.arrays.mass[body] = value

        return weigh
    if what in ("p", "d") and name in simulation.driven:
        gains = simulation.motors.p if what == "p" else simulation.motors.d
        return _setter(gains, simulation.driven.index(name))
    if key == "ground.friction":

        def roughen(value: float) -> None:
            simulation.contact.surface[-1, 0] = value

        return roughen
    known = [
        *(f"{joint}.{end}" for joint in tree.coordinates for end in ("position", "velocity")),
        *(f"{link}.mass" for link in tree.links), "ground.friction",
    ]  # fmt: skip
    raise ModelError(
        f"{key!r} cannot be varied{did_you_mean(key, known)}; there are <joint>.position, "
        "velocity, damping, friction, p and d, <link>.mass, ground.friction, and coordinates of "
        "what floats"
    )


def _setter(row: Array, at: int) -> Callable[[float], None]:
    def change(value: float) -> None:
        row[at] = value

    return change
