"""Files written whole or not at all, and which files were read."""

from __future__ import annotations

import glob
import os
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from contextvars import ContextVar
from pathlib import Path
from typing import BinaryIO

from mooring.errors import InputError

_PART = ".part"
_STALE = 3600.0
"""How old what an unfinished writer left must be, lest it is still writing [s]."""


@contextmanager
def write_whole(path: Path) -> Iterator[BinaryIO]:
    """Open a file for writing that takes its place only when all of it is written.

    A failure or an interruption leaves what was there before. What was there keeps its permissions
    and its owner, and a link stays a link.

    Raises:
        InputError: it cannot be written; read-only files are not.
    """
    target = true_path(path) if path.is_symlink() else path
    try:
        before = target.stat() if target.exists() else None
        if before is not None and not before.st_mode & 0o222:
            raise InputError(f"{path}: is read-only, so nothing is written over it")
        target.parent.mkdir(parents=True, exist_ok=True)
        _clean_up(target)
        handle, name = tempfile.mkstemp(prefix=f".{target.name}.", suffix=_PART, dir=target.parent)
    except OSError as error:
        raise _unwritable(path, error) from None
    temporary = Path(name)
    try:
        with os.fdopen(handle, "wb") as stream:
            yield stream
        temporary.chmod(before.st_mode & 0o7777 if before is not None else 0o666 & ~_umask())
        if before is not None and hasattr(os, "chown"):
            # Only the superuser may, and only there it matters.
            with suppress(OSError):
                os.chown(temporary, before.st_uid, before.st_gid)
        temporary.replace(target)
    except BaseException as error:
        temporary.unlink(missing_ok=True)
        if isinstance(error, OSError):
            raise _unwritable(path, error) from None
        raise


def _unwritable(path: Path, error: OSError) -> InputError:
    return InputError(f"{path}: cannot be written: {error.strerror or error}")


def _clean_up(target: Path) -> None:
    """Take away what writers that were killed long ago have left."""
    for old in target.parent.glob(f".{glob.escape(target.name)}.*{_PART}"):
        with suppress(OSError):
            if time.time() - old.stat().st_mtime > _STALE:
                old.unlink()


def write_text(path: Path, text: str) -> None:
    """Write a text file as UTF-8, whole or not at all."""
    with write_whole(path) as stream:
        stream.write(text.encode("utf-8"))


_noted: ContextVar[set[Path] | None] = ContextVar("noted", default=None)


@contextmanager
def noting_files() -> Iterator[set[Path]]:
    """Collect which files a description is read from, also when reading it fails."""
    seen: set[Path] = set()
    token = _noted.set(seen)
    try:
        yield seen
    finally:
        _noted.reset(token)


def true_path(file: Path) -> Path:
    """A path without links; of links that go in a circle, as far as they go."""
    return Path(os.path.realpath(file))


def note_file(file: Path) -> None:
    """Say that a description is read from a file, which may be missing."""
    seen = _noted.get()
    if seen is not None:
        seen.add(true_path(file))


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
