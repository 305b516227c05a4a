"""Telling the user how far long work has come."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager

from mooring import outlet

Progress = Callable[[float, float], None]
"""Called with how much of the work at hand is done, and of how much."""

progress: Progress = outlet.advance
"""Where nobody else watches, a notebook shows a bar."""


@contextmanager
def progress_to(shown: Progress) -> Iterator[None]:
    """Show how far long work has come, while it lasts."""
    global progress
    before, progress = progress, shown
    try:
        yield
    finally:
        progress = before
