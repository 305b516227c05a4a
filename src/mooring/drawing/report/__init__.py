"""Reports for a design review: one HTML file with everything inside, made to be printed on A4."""

from mooring.drawing.report.robot import report_robot
from mooring.drawing.report.run import report_run

__all__ = ["report_robot", "report_run"]
