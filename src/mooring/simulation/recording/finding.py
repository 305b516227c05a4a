"""One thing that went wrong in a run."""

from __future__ import annotations

from dataclasses import asdict, dataclass


@dataclass(frozen=True)
class RunFinding:
    """Something that went wrong, and what to do.

    Attributes:
        code: what sort of thing, such as `"motor-saturated"`.
        item: the joint, link, or pair of links at fault.
        since: when it began [s].
        message: what happened, with names and figures.
        remedy: what to change.
        weight: how likely it is the cause of the others; higher comes first.
    """

    code: str
    item: str
    since: float
    message: str
    remedy: str
    weight: float = 0.0

    def __str__(self) -> str:
        return f"{self.message}; {self.remedy}"

    def described(self) -> dict[str, object]:
        """As plain values."""
        return asdict(self)
