"""All findings about one robot."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from mooring import outlet
from mooring.checks.finding import SEVERITIES, Finding, Severity
from mooring.errors import DocumentError, InputError, Place, Problem

UNUSED = "accepted-for-nothing"
"""The code of what is accepted and not found."""
UNREADABLE = "unreadable"
"""The code of what keeps a file from being read at all, which no rule can look for."""


@dataclass(frozen=True, repr=False)
class Report(outlet.Shown):
    """The answer of `mooring.check`.

    Attributes:
        robot: the robot's name.
        findings: errors first, then warnings, then notes.
        rules: how many rules were applied.
    """

    robot: str
    findings: tuple[Finding, ...]
    rules: int

    def __repr__(self) -> str:
        return f"<Report of {self.robot!r}: {self.summary()}>"

    @property
    def ok(self) -> bool:
        """Whether there is no error."""
        return self.count("error") == 0

    def count(self, severity: Severity) -> int:
        """How many findings have a severity and are not accepted."""
        return sum(f.severity == severity and f.accepted is None for f in self.findings)

    @property
    def open(self) -> tuple[Finding, ...]:
        """The findings that nobody accepted."""
        return tuple(finding for finding in self.findings if finding.accepted is None)

    def codes(self) -> set[str]:
        """The codes of all findings."""
        return {finding.code for finding in self.findings}

    def as_dict(self) -> dict[str, Any]:
        """Plain values, for JSON."""
        return {
            "robot": self.robot,
            "ok": self.ok,
            "rules": self.rules,
            "counts": {severity: self.count(severity) for severity in SEVERITIES},
            "findings": [finding.as_dict() for finding in self.findings],
        }

    def summary(self) -> str:
        """One line."""
        accepted = len(self.findings) - len(self.open)
        besides = f", {accepted} accepted" if accepted else ""
        if not self.open:
            return f"nothing found by {self.rules} rules{besides}"
        counts = (
            f"{number} {severity}{'s' if number > 1 else ''}"
            for severity in SEVERITIES
            if (number := self.count(severity))
        )
        return ", ".join(counts) + besides

    @staticmethod
    def refused(file: Path, error: InputError) -> Report:
        """Of a file that cannot be read at all: why, as findings."""
        problems = error.problems if isinstance(error, DocumentError) else (Problem(str(error)),)
        findings = tuple(
            Finding(
                "error", UNREADABLE, (), problem.message, "mend it, so that it can be read",
                problem.place or Place(file),
            )
            for problem in problems
        )  # fmt: skip
        return Report(file.stem, findings, 0)

    def __iter__(self) -> Iterator[Finding]:
        return iter(self.findings)

    def __str__(self) -> str:
        lines = [f"{self.robot}: {self.summary()}"]
        for f in self.open:
            where = f"{f.place}: " if f.place is not None else ""
            lines.append(f"{where}{f.severity} {f.code}: {f.message}\n    {f.remedy}")
        return "\n".join(lines)
