"""What a check finds."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from mooring.checks.fix import Edit
from mooring.errors import Place

Severity = Literal["error", "warning", "note"]
SEVERITIES: tuple[Severity, ...] = ("error", "warning", "note")


@dataclass(frozen=True)
class Finding:
    """One thing that is wrong, or might be.

    Attributes:
        severity: an error keeps the robot from being used; a warning is probably a mistake; a
            note is worth knowing.
        code: the rule's short name, e.g. `"limits-inverted"`.
        item: what it is about, e.g. `("joints", "slew")`.
        message: what is wrong, with names and numbers.
        remedy: what to do.
        place: file and line, where known.
        accepted: why the document accepts it; None where it does not.
        fix: changes of the document that mend it.
    """

    severity: Severity
    code: str
    item: tuple[str, ...]
    message: str
    remedy: str
    place: Place | None = None
    accepted: str | None = None
    fix: tuple[Edit, ...] = ()

    def as_dict(self) -> dict[str, Any]:
        """Plain values, for JSON."""
        return {
            "severity": self.severity,
            "code": self.code,
            "item": ".".join(self.item),
            "message": self.message,
            "remedy": self.remedy,
            "accepted": self.accepted,
            "can_be_fixed": bool(self.fix),
            "file": None if self.place is None else str(self.place.file),
            "line": None if self.place is None else self.place.line,
        }
