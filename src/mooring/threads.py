"""How many threads the compiled core may use."""

from __future__ import annotations

import os

from mooring.errors import InputError, told

_CORES = os.cpu_count() or 1


def most_threads() -> int:
    """As many as there are cores, or what `MOORING_THREADS` says.

    What comes out is the same bytes with any number.

    Raises:
        InputError: the variable is no whole number of one or more.
    """
    said = os.environ.get("MOORING_THREADS")
    if not said:
        return _CORES
    if not said.isdigit() or int(said) < 1:
        raise InputError(f"MOORING_THREADS is a number of threads, one or more, got {told(said)}")
    return int(said)
