"""Telling the user how far long work has come."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager

Progress = Callable[[int, int], None]
"""Called with how much of the work at hand is done, and of how much."""


def _silent(done: int, total: int) -> None:
    pass


progress: Progress = _silent


@contextmanager
def progress_to(shown: Progress) -> Iterator[None]:
    """Show how far long work has come, while it lasts."""
    global progress
    before, progress = progress, shown
    try:
        yield
    finally:
        progress = before
