"""What a document says about its own checks."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from mooring.model.fields import Described


class Acceptance(Described):
    """A finding that is known and accepted.

    Attributes:
        code: the rule's.
        item: pattern of what it is about, such as `links.boom` or `joints.*`; all if not given.
        because: why.
    """

    code: str
    item: str = "*"
    because: str = Field(min_length=1)


class CheckSettings(Described):
    """How findings are judged.

    Attributes:
        severity: of rules, by code: error, warning, note or off.
        accept: findings that are known.
    """

    severity: dict[str, Literal["error", "warning", "note", "off"]] = Field(default_factory=dict)
    accept: list[Acceptance] = Field(default_factory=list)
