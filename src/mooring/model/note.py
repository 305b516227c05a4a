"""What a reader has to say of what it read."""

from __future__ import annotations

import math
from dataclasses import dataclass

from mooring.errors import Place

MOST_ANGLE = math.tau + 0.01
"""What no orientation needs more than [rad]; degrees give more."""


@dataclass(frozen=True)
class Note:
    """Something that was assumed, changed or left out.

    Attributes:
        text: what, in a sentence.
        code: the rule of `check` that makes a finding of it; empty where it is none.
        item: what it is about, e.g. `("links", "arm")`.
        remedy: what to do, where it is a finding.
        place: where it was written, where that is known.
        respell: the line, the element and the attribute that are misspelt, and how they are spelt.
        wanted: the path of a value, and what it is to be, where that is sure.
        shown: whether every command that reads the file prints it, although it is no finding.
    """

    text: str
    code: str = ""
    item: tuple[str, ...] = ()
    remedy: str = ""
    place: Place | None = None
    respell: tuple[str, ...] = ()
    wanted: tuple[tuple[str, ...], tuple[str, ...]] | None = None
    shown: bool = False

    def __str__(self) -> str:
        return self.text if self.place is None else f"{self.place}: {self.text}"
