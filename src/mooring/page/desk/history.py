"""What was done, to be taken back and done again: postures, and changes of the document."""

from __future__ import annotations

import time
from collections.abc import Mapping
from dataclasses import dataclass, replace

from mooring.page.desk.editing import ProposedEdit

_MOST = 200
_ONE_MOVE = 1.0
"""Moves of the same kind that follow each other sooner are one [s]."""


@dataclass(frozen=True)
class Posed:
    """A move of the model.

    Attributes:
        what: in words.
        before, after: where that was which stood elsewhere than the model has it, by coordinate.
    """

    what: str
    before: Mapping[str, float]
    after: Mapping[str, float]


Step = Posed | ProposedEdit


class History:
    """Steps in the order in which they were done.

    Attributes:
        past: what can be taken back, the latest last.
        future: what was taken back, and can be done again, the next last.
    """

    def __init__(self) -> None:
        self.past: list[Step] = []
        self.future: list[Step] = []
        self._moved = 0.0

    def posed(self, step: Posed) -> None:
        """A move; one that goes on what was done a moment ago is one with it."""
        now = time.monotonic()
        last = self.past[-1] if self.past else None
        same = isinstance(last, Posed) and last.what == step.what and now - self._moved < _ONE_MOVE
        self._moved = now
        if same and isinstance(last, Posed):
            self.past[-1] = replace(last, after=step.after)
            self.future.clear()
        elif step.before != step.after:
            self.did(step)

    def did(self, step: Step) -> None:
        """Something new, after which nothing that was taken back can be done again."""
        self.past = [*self.past, step][-_MOST:]
        self.future.clear()

    def taken_back(self) -> None:
        """The latest step is undone now."""
        self.future.append(self.past.pop())
        self._moved = 0.0

    def done_again(self) -> None:
        """The latest step that was taken back is done now."""
        self.past.append(self.future.pop())
        self._moved = 0.0
