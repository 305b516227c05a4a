"""What a reader has to say of what it read."""

from __future__ import annotations

from dataclasses import dataclass

from mooring.errors import Place


@dataclass(frozen=True)
class Note:
    """Something that was assumed, changed or left out.

    Attributes:
        text: what, in a sentence.
        code: the rule of `check` that makes a finding of it; empty where it is none.
        item: what it is about, e.g. `("links", "arm")`.
        remedy: what to do, where it is a finding.
        place: where it was written, where that is known.
    """

    text: str
    code: str = ""
    item: tuple[str, ...] = ()
    remedy: str = ""
    place: Place | None = None

    def __str__(self) -> str:
        return self.text if self.place is None else f"{self.place}: {self.text}"
