"""`check`: apply every rule to a robot."""

from __future__ import annotations

from fnmatch import fnmatchcase
from typing import cast

import mooring.checks.rules  # noqa: F401  registers the rules
from mooring.checks.finding import SEVERITIES, Finding, Severity
from mooring.checks.report import Report
from mooring.checks.rule import RULES, Found, Rule
from mooring.checks.subject import Subject
from mooring.errors import ModelError, did_you_mean
from mooring.model import Robot
from mooring.model.structure import faults


def check(robot: Robot) -> Report:
    """Look for everything that is wrong with a robot.

    Rules that need a sound kinematic tree are left out as long as it is not one. What the robot
    says in `checks` changes severities, and accepts findings.

    Raises:
        ModelError: `checks` names a rule that there is not.

    Example:
        >>> from mooring import Robot
        >>> robot = Robot("cart")
        >>> robot.add_link("frame")
        >>> robot.add_joint("axle", "continuous", parent="frame", child="wheel")
        >>> report = check(robot)
        >>> report.ok, sorted(report.codes())
        (False, ['missing-link'])
    """
    _refuse_unknown(robot)
    said = robot.checks.severity
    sound = not faults(robot)
    rules = [
        rule
        for code, rule in RULES.items()
        if (sound or not rule.needs_tree) and said.get(code) != "off"
    ]
    subject = Subject(robot)
    findings = [_finding(robot, rule, found) for rule in rules for found in rule.look(subject)]
    findings += _unused(robot, findings)
    findings.sort(key=lambda finding: SEVERITIES.index(finding.severity))
    return Report(robot.name, tuple(findings), len(rules))


def _finding(robot: Robot, rule: Rule, found: Found) -> Finding:
    severity = cast("Severity", robot.checks.severity.get(rule.code, rule.severity))
    item = ".".join(found.item)
    accepted = next(
        (
            entry.because
            for entry in robot.checks.accept
            if entry.code == rule.code and fnmatchcase(item, entry.item)
        ),
        None,
    )
    return Finding(
        severity,
        rule.code,
        found.item,
        found.message,
        found.remedy,
        robot.place(found.item),
        accepted,
        found.fix,
    )


def _unused(robot: Robot, findings: list[Finding]) -> list[Finding]:
    """Acceptances of what is not found: they would hide it when it comes back."""
    unused = [
        entry
        for entry in robot.checks.accept
        if not any(
            f.code == entry.code and fnmatchcase(".".join(f.item), entry.item) for f in findings
        )
    ]
    return [
        Finding(
            "note",
            "accepted-for-nothing",
            ("checks",),
            f"checks accepts {entry.code} of {entry.item}, and there is no such finding",
            "take it away, lest it hides a new one",
            robot.place(("checks", "accept")),
        )
        for entry in unused
    ]


def _refuse_unknown(robot: Robot) -> None:
    codes = [*robot.checks.severity, *(entry.code for entry in robot.checks.accept)]
    for code in codes:
        if code not in RULES:
            hint = did_you_mean(code, list(RULES))
            raise ModelError(f"checks: no rule is called {code!r}{hint}")
