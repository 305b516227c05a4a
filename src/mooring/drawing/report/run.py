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
from mooring.units import show

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
    rows = []
    table = recording.table
    for joint in recording.driven:
        turns = recording.units[joint] == "rad"
        kind = "torque" if turns else "force"
        efforts = table[f"{joint}.effort"].to_numpy(dtype=float)
        most = float(np.abs(efforts).max(initial=0.0))
        limit = recording.limits[joint]
        share = f"{100 * most / limit:.0f}%" if np.isfinite(limit) and limit > 0 else ""
        fastest = float(np.abs(table[f"{joint}.velocity"]).max())
        speed = show(fastest, "angular velocity" if turns else "velocity", 3)
        usual = float(np.sqrt(np.mean(efforts**2)))
        rows.append(
            (joint, show(most, kind, 3), show(limit, kind) if np.isfinite(limit) else "none",
             share, show(usual, kind, 3), speed)
        )  # fmt: skip
    columns = ("motor of", "largest effort", "limit", "share", "root mean square", "fastest")
    sheet.table(columns, rows, " rrrrr")
