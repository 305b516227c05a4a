"""What a document says about its own checks."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from mooring.model.definition.described import Described, Table, Value
from mooring.model.definition.markers import ItemPattern


class Acceptance(Value):
    """A finding that is known and accepted.

    Attributes:
        code: the rule's.
        item: pattern of what it is about, such as `links.boom` or `joints.*`; all if not given.
        because: why.
    """

    code: str
    item: Annotated[str, ItemPattern()] = "*"
    because: str = Field(min_length=1)


class CheckSettings(Described):
    """How findings are judged.

    Attributes:
        severity: of rules, by code: error, warning, note or off.
        accept: findings that are known.
    """

    severity: Table[str, Literal["error", "warning", "note", "off"]] = Field(default_factory=dict)
    accept: tuple[Acceptance, ...] = ()
