"""What the step is too long for: explosions, energy from nowhere, resonances."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view

from mooring.simulation.recording.columns import ENERGIES
from mooring.simulation.recording.finding import RunFinding
from mooring.units import show

if TYPE_CHECKING:
    from mooring.simulation.recording.recording import Recording
    from mooring.simulation.simulation import Simulation

_RESIDUE = 0.05
"""Energy from nowhere, as a share of what went through."""
_SWING = 64
"""Steps in which the slowest spring that a step notices has swung once."""
_RESOLVED = 0.25
"""The square of the angle [rad] by which a resonance may turn in a step that does not damp it."""
_ADDED = 0.05
"""A damping ratio that the step may add without a word."""
_LEAST_RESIDUE = 1e-3
"""[J]"""


def exploded(simulation: Simulation, _: Recording) -> Iterator[RunFinding]:
    """A motion that left all bounds."""
    if "exploded" not in simulation.ended:
        return
    _, time, freedom = simulation.watch.fastest
    joint = simulation.tree.freedoms[int(freedom)]
    yield RunFinding(
        "exploded", joint, float(time),
        f"the motion exploded at {time:.3f} s, first in {joint}",
        "take a shorter step, or stepper='robust'" if simulation.stepper == "accurate" else
        "look at the findings before; a shorter step may show where it begins",
        50,
    )  # fmt: skip


def unexplained(simulation: Simulation, recording: Recording) -> Iterator[RunFinding]:
    """Energy that appeared from nowhere: the balance over all sources does not close."""
    table = recording.table
    column = {name: table[f"energy.{name}"].to_numpy(dtype=float) for name in ENERGIES}
    held = column["kinetic"] + column["potential"]
    given = column["motors"] + column["pushes"]
    lost = column["damping"] + column["friction"] + column["contact"]
    residue = (held - held[0]) - (given - given[0]) + (lost - lost[0])
    # What went through the machine, not how high it stands.
    scale = max(
        float(column["kinetic"].max()), float(np.ptp(held)), float(np.ptp(given)),
        float(np.ptp(lost)),
    )  # fmt: skip
    parting = float(simulation.watch.overlap[:, 3].sum())
    # Stiff springs swing about the energy that they keep; what stays for a while has appeared.
    span = min(1 + _SWING // simulation.settings.every, len(residue))
    lasting = sliding_window_view(residue, span).min(axis=1)
    grown = float(lasting.max()) - parting
    if grown > max(_RESIDUE * scale, _LEAST_RESIDUE):
        row = int(np.flatnonzero(lasting > 0.5 * lasting.max())[0])
        yield RunFinding(
            "energy-from-nowhere", recording.robot, float(table.index[row]),
            f"{show(grown, 'energy', 3)} appeared that no motor or push gave "
            f"({100 * grown / scale:.0f}% of what went through)",
            f"the step of {1e3 * simulation.settings.step:g} ms is too long for what moves here: "
            "halve it, and see whether this halves",
            54,
        )  # fmt: skip


def resonances(simulation: Simulation, _: Recording) -> Iterator[RunFinding]:
    """What would ring on a spring or a gain, and is damped by the step."""
    tree, h = simulation.tree, simulation.settings.step
    names = [*tree.freedoms, *simulation.robot.springs]
    for name, (alone, bound) in zip(names, simulation.watch.resonance, strict=True):
        angle = float(np.sqrt(alone))
        late = min(1.0, max(0.0, (float(bound) - _RESOLVED) / (1 - _RESOLVED)))
        if 0.5 * angle * late < _ADDED:
            continue
        fine = h * np.sqrt(_RESOLVED / bound)
        yield RunFinding(
            "step-too-long", name, 0.0,
            f"what swings on {name} at about {angle / (2 * np.pi * h):.3g} Hz would ring, and "
            f"steps of {1e3 * h:g} ms damp it (by a ratio of about {0.5 * angle * late:.2g}, "
            "which is not there)",
            f"take steps of {1e3 * fine:.2g} ms, or say how it is damped",
            53,
        )  # fmt: skip
