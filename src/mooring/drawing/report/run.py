"""The report on a run: what happened, what went wrong, and the robot it happened to."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from mooring.drawing.plots.recording import PLOTS
from mooring.drawing.report.robot import describe
from mooring.drawing.report.sheet import Sheet
from mooring.drawing.runs.moments import draw_moments
from mooring.model import Robot
from mooring.simulation import Recording
from mooring.simulation.recording.clearance_table import NEAR, clearance_table
from mooring.units import show

_MOST_PASSES = 12
_CAPTIONS = {
    "motion": "Where the joints are, and where they were to go.",
    "effort": "What the motors gave, against what they can give.",
    "energy": "Where the motors' work went.",
    "contacts": "When what pressed on what.",
}


def report_run(robot: Robot, recording: Recording, file: Path) -> None:
    """Write a report on a run.

    Args:
        robot: everything that was recorded.
        recording: of the run, of at least one instant.
        file: .html.

    Raises:
        ModelError: another suffix.
    """
    seconds = float(recording.table.index[-1])
    lead = f"A run of {show(seconds, 'time')}, {len(recording.table):,} recorded instants"
    sheet = Sheet(recording.robot, lead)
    if any(link.collisions or link.shown(robot.materials) for link in robot.links.values()):
        sheet.pictures([(draw_moments(robot, recording), "Six moments of the run.")])
    sheet.heading("What went wrong")
    if not recording.findings:
        sheet.finding("good", "Nothing was found.", "", "")
    for number, finding in enumerate(recording.findings):
        title = "Likely cause:" if number == 0 and len(recording.findings) > 1 else ""
        sheet.finding("warning", title, finding.message, finding.remedy)
    for note in recording.notes:
        sheet.words(f"Note: {note}.")
    sheet.heading("Motors")
    _motors(sheet, recording)
    sheet.heading("How near links came to each other")
    _clearances(sheet, robot, recording)
    sheet.heading("What happened")
    for name, plot in PLOTS.items():
        if name != "contacts" or len(recording.contacts):
            sheet.plot(plot(recording), _CAPTIONS[name])
    sheet.heading("The robot")
    describe(sheet, robot)
    sheet.save(file)


def _motors(sheet: Sheet, recording: Recording) -> None:
    if not recording.driven:
        sheet.words("No motor was on.")
        return
    whole = recording.motor_table()
    rows, electric = [], []
    for joint in recording.driven:
        did = dict(zip(whole.columns, whole.loc[joint].to_numpy(), strict=True))
        turns = recording.units[joint] == "rad"
        kind = "torque" if turns else "force"
        limit = recording.limits[joint]
        most = show(did["peak_effort"], kind, 3)
        if np.isfinite(limit):
            most += f" ({100 * did['of_limit']:.0f}% of {show(limit, kind)})"
        rows.append(
            (joint, most, show(did["rms_effort"], kind, 3),
             show(did["peak_speed"], "angular velocity" if turns else "velocity", 3),
             show(did["peak_power"], "power", 3), show(did["energy_given"], "energy", 3),
             show(did["energy_back"], "energy", 3))
        )  # fmt: skip
        if np.isfinite(did["of_continuous"]) or np.isfinite(did["peak_current"]):
            electric.append(
                (joint, *(f"{did[name]:.3g} {unit}" if np.isfinite(did[name]) else ""
                          for name, unit in (("peak_current", "A"), ("rms_current", "A"),
                                             ("peak_voltage", "V"), ("heat", "J"))),
                 f"{100 * did['of_continuous']:.0f}%" if np.isfinite(did["of_continuous"]) else "")
            )  # fmt: skip
    sheet.table(
        ("motor of", "largest effort", "RMS", "fastest", "power", "energy given", "came back"),
        rows, " rrrrrr",
    )  # fmt: skip
    if electric:
        sheet.table(
            ("motor of", "largest current", "root mean square", "largest voltage",
             "heat in the winding", "of its continuous torque"), electric, " rrrrr",
        )  # fmt: skip


def _clearances(sheet: Sheet, robot: Robot, recording: Recording) -> None:
    near, every = clearance_table(robot, recording)
    if every > 1:
        sheet.words(f"Of every {every} recorded instants one was looked at.")
    if near.empty:
        sheet.words(f"No two links came nearer to each other than {show(NEAR, 'length')}.")
        return
    rows = [
        (f"{first} and {second}", show(distance, "length", 3), show(time, "time", 4))
        for first, second, distance, time in near.head(_MOST_PASSES).itertuples(index=False)
    ]
    sheet.table(("links", "nearest", "at"), rows, " rr")
    if len(near) > _MOST_PASSES:
        sheet.words(f"And {len(near) - _MOST_PASSES} more pairs within {show(NEAR, 'length')}.")
