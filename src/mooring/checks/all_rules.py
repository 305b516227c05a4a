"""`check`: apply every rule to a robot."""

from __future__ import annotations

import mooring.checks.rules  # noqa: F401  registers the rules
from mooring.checks.finding import SEVERITIES, Finding
from mooring.checks.report import Report
from mooring.checks.rule import RULES
from mooring.model import Robot
from mooring.model.structure import faults


def check(robot: Robot) -> Report:
    """Look for everything that is wrong with a robot.

    Rules that need a sound kinematic tree are left out as long as it is not one.

    Example:
        >>> from mooring import Robot
        >>> robot = Robot("cart")
        >>> robot.add_link("frame")
        >>> robot.add_joint("axle", "continuous", parent="frame", child="wheel")
        >>> report = check(robot)
        >>> report.ok, sorted(report.codes())
        (False, ['missing-link'])
    """
    sound = not faults(robot)
    rules = [rule for rule in RULES.values() if sound or not rule.needs_tree]
    findings = [
        Finding(
            rule.severity,
            rule.code,
            found.item,
            found.message,
            found.remedy,
            robot.place(found.item),
        )
        for rule in rules
        for found in rule.look(robot)
    ]
    findings.sort(key=lambda finding: SEVERITIES.index(finding.severity))
    return Report(robot.name, tuple(findings), len(rules))
