"""`python -m benchmarks.accuracy FILE.png`: error against step, by problem and stepper."""

from __future__ import annotations

import sys

import numpy as np

from benchmarks.problems import PROBLEMS, bricard
from mooring import Simulation
from mooring.drawing.plots.style import color, sheet, styled

_STEPS = (8e-3, 4e-3, 2e-3, 1e-3, 5e-4, 2.5e-4)


def bricards_energy(step: float, stepper: str) -> float:
    """How much of its largest kinetic energy Bricard's mechanism gains or loses in 3 s."""
    simulation = Simulation(bricard(), stepper=stepper, step=step, gravity=(0, -9.81, 0))  # type: ignore[arg-type]
    simulation.step(seconds=3)
    table = simulation.recording.table
    kinetic = table["energy.kinetic"]
    return float(np.ptp(kinetic + table["energy.potential"]) / kinetic.max())


def errors_against_step(file: str) -> None:
    """Draw them, with lines of order 2 and 4."""
    problems = [make() for make in PROBLEMS]
    with styled():
        figure, axes = sheet(len(problems) + 1, "error against step")
        drawn = [*((p.name, p.error) for p in problems),
                 ("Bricard: energy, as a share", bricards_energy)]  # fmt: skip
        for axis, (name, error) in zip(axes, drawn, strict=True):
            for number, stepper in enumerate(("robust", "accurate")):
                found = [max(error(step, stepper), 1e-16) for step in _STEPS]
                axis.loglog(_STEPS, found, "o-", color=color(number), label=stepper)
                order = (2, 4)[number]
                first = found[1] * (np.array(_STEPS) / _STEPS[1]) ** order
                axis.loglog(_STEPS, first, ":", color=color(number), label=f"order {order}")
            axis.set_title(name)
            axis.set_ylabel("error [rad, m or share]")
            axis.set_xlabel("step [ms]")
            axis.set_xticks(_STEPS, [f"{1e3 * step:g}" for step in _STEPS])
            axis.minorticks_off()
        axes[0].legend(loc="best")
    figure.savefig(file, dpi=100)


if __name__ == "__main__":
    errors_against_step(sys.argv[1])
