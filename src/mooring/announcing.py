"""Telling the user what takes a while: kernels being compiled, large files being read.

Apart from the work itself, so that a command line can say how to show it without loading Numba.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager

Announcer = Callable[[str], AbstractContextManager[None]]
"""Called with what is being compiled; returns a context manager that lasts as long as it does."""


@contextmanager
def _log(what: str) -> Iterator[None]:
    logging.getLogger("mooring").warning("compiling %s; this happens once", what)
    yield


announcer: Announcer = _log


def announce_with(new: Announcer) -> None:
    """Show compilation in another way than by a line in the log."""
    global announcer
    announcer = new


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
