"""Telling the user that kernels are being compiled.

Apart from the compiling itself, so that a command line can say how to show it without loading
Numba.
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
