"""What all messages are."""

from __future__ import annotations

from typing import Annotated, ClassVar

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

VERSION = "1"
"""Of the messages; grows when a message changes so that older programs misread it."""

Text = Annotated[str, Field(max_length=500)]
Name = Annotated[str, Field(min_length=1, max_length=200)]


def _no_truth(value: object) -> object:
    if isinstance(value, bool):
        raise ValueError("must be a number in SI, or a text with its unit; not true or false")
    return value


Number = Annotated[float, BeforeValidator(_no_truth)]
Quantity = Annotated[
    float | Annotated[str, Field(max_length=60)],
    BeforeValidator(_no_truth),
    Field(description="A number in SI, or a text with its unit."),
]
Triple = tuple[Number, Number, Number]


class Message(BaseModel):
    """A message: strict, so that nothing that was misspelt goes unnoticed.

    On the wire it is an object whose `kind` is the name of its definition in lower case.
    """

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)

    kind: ClassVar[str]

    def __init_subclass__(cls, **options: object) -> None:
        super().__init_subclass__(**options)  # type: ignore[arg-type]
        cls.kind = cls.__name__.lower()
