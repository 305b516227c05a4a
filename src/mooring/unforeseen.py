"""Errors that are nobody's but Mooring's: what is said of them, and where their details are."""

from __future__ import annotations

import os
import shlex
import sys
import tempfile
import traceback

from mooring.errors import told
from mooring.version import VERSION


def unforeseen(error: BaseException, doing: str = "") -> str:
    """What to say of an error inside Mooring, whose details go to a file.

    Args:
        error: what was raised.
        doing: what was being done.
    """
    what = f"{type(error).__name__}: {_words(error)}"
    words = f"an error inside Mooring{doing and f' while {doing}'}: {what}"
    try:
        handle, name = tempfile.mkstemp(prefix="mooring-error-", suffix=".txt")
        with os.fdopen(handle, "w", encoding="utf-8", errors="backslashreplace") as stream:
            command = " ".join(map(shlex.quote, sys.argv[1:]))
            stream.write(f"mooring {VERSION}, Python {sys.version}\n")
            stream.write(f"$ mooring {command}\n\n")
            stream.write("".join(traceback.format_exception(error)))
    except OSError:
        return f"{words}\nits details could not be written anywhere; please report it"
    return (
        f"{words}\nits details are in {name}; please report it with that file and what it was about"
    )


def _words(error: BaseException) -> str:
    try:
        return str(error)
    except Exception:
        return told(error)
