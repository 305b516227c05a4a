"""`check`: apply every rule to a robot."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Iterator
from fnmatch import fnmatchcase
from typing import cast

import mooring.checks.rules  # noqa: F401  registers the rules
from mooring.arguments import proven
from mooring.checks.finding import SEVERITIES, Finding, Severity
from mooring.checks.report import UNUSED, Report
from mooring.checks.rule import RULES, Found, Rule
from mooring.checks.rules.reading import READING
from mooring.checks.subject import Subject
from mooring.errors import ModelError, Place, did_you_mean
from mooring.model import Robot
from mooring.model.structure import faults

_LOG = logging.getLogger(__name__)
_NAMED = 6


@proven
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
    findings = []
    for rule in rules:
        began = time.perf_counter()
        findings += [_finding(robot, rule, found) for found in _together(rule.look(subject))]
        _LOG.debug("rule %s took %.3f s", rule.code, time.perf_counter() - began)
    findings += _unused(robot, findings)
    findings.sort(key=_order(findings))
    return Report(robot.name, tuple(findings), len(rules))


def _order(findings: list[Finding]) -> Callable[[Finding], tuple[int, ...]]:
    """By severity; but what follows from another finding comes after that."""
    after: dict[str, int] = {}
    for one in findings:
        for code in RULES[one.code].explains if one.code in RULES else ():
            after[code] = min(after.get(code, 9), SEVERITIES.index(one.severity))

    def key(one: Finding) -> tuple[int, ...]:
        own = SEVERITIES.index(one.severity)
        return (
            max(own, after.get(one.code, 0)),
            # What a file says wrongly comes before what follows from it.
            one.code not in READING,
            one.code in after,
        )

    return key


def _together(found: Iterator[Found]) -> Iterator[Found]:
    """Findings; of those that are alike the first, which names the others."""
    alike: dict[str, list[Found]] = {}
    for one in found:
        if one.like:
            alike.setdefault(one.like, []).append(one)
        else:
            yield one
    for first, *others in alike.values():
        named = [other.called or ".".join(other.item[1:2]) for other in others]
        listed = ", ".join(named[:_NAMED]) + (
            f" and {len(named) - _NAMED} more" if len(named) > _NAMED else ""
        )
        yield first._replace(
            message=f"{first.message}; so it is with {listed}" if others else first.message,
            fix=tuple(edit for one in (first, *others) for edit in one.fix),
        )


def _finding(robot: Robot, rule: Rule, found: Found) -> Finding:
    severity = cast("Severity", robot.checks.severity.get(rule.code, rule.severity))
    item = ".".join(found.item)
    place = found.place or robot.place(found.item)
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
        found.in_urdf if found.in_urdf and _in_urdf(place) else found.remedy,
        place,
        accepted,
        found.fix,
    )


def _in_urdf(place: Place | None) -> bool:
    return place is not None and place.file.suffix.lower() == ".urdf"


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
            UNUSED,
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
