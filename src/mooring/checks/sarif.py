"""Findings as SARIF 2.1.0 (OASIS), which code review systems show beside the lines."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from mooring.checks.finding import Finding
from mooring.checks.report import Report
from mooring.checks.rule import RULES

_SCHEMA = (
    "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"
)


def as_sarif(report: Report, version: str, base: Path) -> dict[str, Any]:
    """One run with all findings; those that are accepted are suppressed, with the reason.

    Args:
        report: the findings.
        version: of Mooring.
        base: the folder that files are named from.
    """
    return {
        "$schema": _SCHEMA,
        "version": "2.1.0",
        "runs": [
            {
                "tool": {
                    "driver": {
                        "name": "mooring",
                        "semanticVersion": version,
                        "rules": [
                            {
                                "id": rule.code,
                                "shortDescription": {"text": rule.summary},
                                "defaultConfiguration": {"level": rule.severity},
                            }
                            for rule in RULES.values()
                        ],
                    }
                },
                "columnKind": "unicodeCodePoints",
                "results": [_result(finding, base) for finding in report],
            }
        ],
    }


def _result(finding: Finding, base: Path) -> dict[str, Any]:
    result: dict[str, Any] = {
        "ruleId": finding.code,
        "level": finding.severity,
        "message": {"text": f"{finding.message}. {_sentence(finding.remedy)}"},
    }
    location: dict[str, Any] = {
        "logicalLocations": [{"fullyQualifiedName": ".".join(finding.item) or "robot"}]
    }
    if finding.place is not None:
        physical: dict[str, Any] = {"artifactLocation": {"uri": _uri(finding.place.file, base)}}
        if finding.place.line is not None:
            physical["region"] = {"startLine": finding.place.line}
        location["physicalLocation"] = physical
    result["locations"] = [location]
    if finding.accepted is not None:
        result["suppressions"] = [{"kind": "inSource", "justification": finding.accepted}]
    return result


def _uri(file: Path, base: Path) -> str:
    whole, root = file.resolve(), base.resolve()
    return whole.relative_to(root).as_posix() if whole.is_relative_to(root) else whole.as_uri()


def _sentence(text: str) -> str:
    return text[:1].upper() + text[1:] + "."
