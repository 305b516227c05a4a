"""Findings as SARIF 2.1.0 (OASIS), which code review systems show beside the lines."""

from __future__ import annotations

from pathlib import Path
from typing import Any
from urllib.parse import quote

from mooring.checks.finding import Finding
from mooring.checks.report import UNREADABLE, UNUSED, Report
from mooring.checks.rule import RULES
from mooring.files import true_path

_SCHEMA = (
    "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"
)

_BASE = "PROJECT"
"""What paths are measured from."""


def as_sarif(report: Report, version: str, base: Path) -> dict[str, Any]:
    """One run with all findings; those that are accepted are suppressed, with the reason.

    Args:
        report: the findings.
        version: of Mooring.
        base: the folder that files are named from.
    """
    rules = [(rule.code, rule.severity, rule.summary) for rule in RULES.values()]
    rules.append((UNREADABLE, "error", "The file can be read."))
    rules.append((UNUSED, "note", "What the document accepts is found."))
    numbers = {code: number for number, (code, *_) in enumerate(rules)}
    return {
        "$schema": _SCHEMA,
        "version": "2.1.0",
        "runs": [
            {
                "tool": {
                    "driver": {
                        "name": "mooring",
                        "semanticVersion": version,
                        "rules": [_rule(*one) for one in rules],
                    }
                },
                "columnKind": "unicodeCodePoints",
                "originalUriBaseIds": {_BASE: {"uri": true_path(base).as_uri() + "/"}},
                "results": [_result(finding, base, numbers[finding.code]) for finding in report],
            }
        ],
    }


def _rule(code: str, severity: str, summary: str) -> dict[str, Any]:
    return {
        "id": code,
        "shortDescription": {"text": summary},
        "defaultConfiguration": {"level": severity},
    }


def _result(finding: Finding, base: Path, number: int) -> dict[str, Any]:
    result: dict[str, Any] = {
        "ruleId": finding.code,
        "ruleIndex": number,
        "level": finding.severity,
        "message": {"text": f"{finding.message}. {_sentence(finding.remedy)}"},
    }
    location: dict[str, Any] = {
        "logicalLocations": [{"fullyQualifiedName": ".".join(finding.item) or "robot"}]
    }
    if finding.place is not None:
        physical: dict[str, Any] = {"artifactLocation": _artifact(finding.place.file, base)}
        if finding.place.line is not None:
            physical["region"] = {"startLine": finding.place.line}
        location["physicalLocation"] = physical
    result["locations"] = [location]
    if finding.accepted is not None:
        result["suppressions"] = [{"kind": "inSource", "justification": finding.accepted}]
    return result


def _artifact(file: Path, base: Path) -> dict[str, str]:
    whole, root = true_path(file), true_path(base)
    if not whole.is_relative_to(root):
        return {"uri": whole.as_uri()}
    return {"uri": quote(whole.relative_to(root).as_posix()), "uriBaseId": _BASE}


def _sentence(text: str) -> str:
    return text[:1].upper() + text[1:] + "."
