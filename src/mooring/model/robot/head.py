"""What is said of a robot as a whole."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from pydantic import Field, field_validator

from mooring.errors import told
from mooring.model.definition.described import Described
from mooring.model.judging import CheckSettings
from mooring.model.vendor import VendorParts

Base = Literal["fixed", "floating"]


class RobotHead(Described):
    """A robot as a whole.

    Attributes:
        name: of the robot.
        base: whether its root is fixed to the world, or floating.
        checks: how findings about it are judged.
        vendor: what other programs have written into it, which is kept and written back.
    """

    word: ClassVar[str] = "robot"

    name: str
    base: Base = "fixed"
    checks: CheckSettings = Field(default_factory=CheckSettings)
    vendor: VendorParts = ()

    @field_validator("name", mode="before")
    @classmethod
    def _a_name_is_text(cls, value: Any) -> Any:
        if not isinstance(value, str) or not value.strip():
            raise ValueError(f"the name must be text, got {told(value)}")
        return value
