"""Telling the user how far long work has come, and whoever reads the log what was done."""

from __future__ import annotations

import logging
import time
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


@contextmanager
def logged(room: str, words: str, *data: object) -> Iterator[None]:
    """Log what was done and how long it took; below the logger `mooring`, at INFO.

    Args:
        room: the module that does it.
        words: what was done, with `%s` for each of the data.
        data: what it was done to.
    """
    began = time.perf_counter()
    yield
    logging.getLogger(room).info(f"{words} in %.2f s", *data, time.perf_counter() - began)
