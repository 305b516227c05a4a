"""What went wrong in a run: every suspicion is a function that looks at it and says so.

A cause outweighs what follows from it: shapes that begin inside each other make motors saturate,
and not the other way round. What merely says that something did not come about is left out where a
finding says why.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

from mooring.simulation.recording.diagnosis import (
    bodies,
    control,
    hindrance,
    loops,
    motors,
    steps,
    stops,
)
from mooring.simulation.recording.finding import RunFinding

if TYPE_CHECKING:
    from mooring.simulation.recording.recording import Recording
    from mooring.simulation.simulation import Simulation

SUSPICIONS: tuple[Callable[[Simulation, Recording], Iterator[RunFinding]], ...] = (
    bodies.overlaps, bodies.lost, bodies.tipped, bodies.slips, bodies.spins, bodies.ratios,
    control.gains, control.jumps, control.wrong_sign, control.swings,
    motors.weak, motors.too_much, motors.too_fast, motors.too_hot, motors.sags, motors.misses,
    hindrance.blocked, hindrance.stuck, loops.open_loops, loops.seized, loops.fights,
    stops.stops, stops.beyond_stops, steps.exploded, steps.unexplained, steps.resonances,
)  # fmt: skip


def diagnose(simulation: Simulation, recording: Recording) -> list[RunFinding]:
    """Everything that is wrong, the likely cause of the rest first.

    Args:
        simulation: as it stands after the run.
        recording: of it; its findings are not looked at.
    """
    if recording.table.empty:
        return []
    found = [finding for suspect in SUSPICIONS for finding in suspect(simulation, recording)]
    told = {finding.item for finding in found if finding.code != motors.MISSED}
    everything = any(finding.code in bodies.EXPLAINS_ALL for finding in found)
    found = [
        finding
        for finding in found
        if finding.code != motors.MISSED or not (everything or finding.item in told)
    ]
    return sorted(found, key=lambda finding: (-finding.weight, finding.since))
