"""Checks: one rule a function, each with a code, a severity and a remedy."""

from mooring.checks.all_rules import check
from mooring.checks.finding import Finding
from mooring.checks.fix import apply_fixes
from mooring.checks.report import Report
from mooring.checks.rule import RULES

__all__ = ["RULES", "Finding", "Report", "apply_fixes", "check"]
