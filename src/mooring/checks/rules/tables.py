"""The rule on tables of dimensions."""

from __future__ import annotations

from collections.abc import Iterator

from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.errors import ModelError
from mooring.kinematics import measure


@rule("table-disagrees", "warning", needs_tree=True)
def table_disagrees(subject: Subject) -> Iterator[Found]:
    """The robot's axes are where its tables of dimensions have them."""
    robot = subject.robot
    for name, table in robot.tables.items():
        try:
            report = measure(robot, table)
        except ModelError as error:
            yield Found(("tables", name), str(error), "make the rows those of the joints")
            continue
        if report.agrees:
            continue
        if report.other_convention is not None:
            remedy = f"write convention: {report.other_convention}; by that the table agrees"
        else:
            wanted = "; ".join(map(str, report.corrections[:4]))
            remedy = f"the robot would want {wanted or 'another place of the base'}"
        yield Found(
            ("tables", name),
            f"table {name!r} and the robot disagree, most at {report.worst.of}: {report.worst}",
            remedy,
        )
