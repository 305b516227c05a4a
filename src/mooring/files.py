"""Files written whole or not at all, and which files were read."""

from __future__ import annotations

import ctypes
import glob
import os
import shutil
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from contextvars import ContextVar
from pathlib import Path
from typing import BinaryIO

from mooring.errors import InputError, told

_PART = ".part"
_LONGEST_NAME = 255
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
            temporary.chmod(before.st_mode & 0o7777 if before is not None else 0o666 & ~_umask())
            if before is not None and hasattr(os, "chown"):
                # Only the superuser may, and only there it matters.
                with suppress(OSError):
                    os.chown(temporary, before.st_uid, before.st_gid)
            yield stream
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
                shutil.rmtree(old) if old.is_dir() else old.unlink()


@contextmanager
def write_together(folder: Path, file: Path | None = None, text: str = "") -> Iterator[Path]:
    """Files that come into a folder together, when all of them are written.

    What else is in the folder stays. A failure leaves what was there before.

    Args:
        folder: where they come.
        file: that speaks of them, and is written at the same moment.
        text: what it says.

    Raises:
        InputError: they cannot be written.
    """
    staged: Path | None = None
    try:
        folder.parent.mkdir(parents=True, exist_ok=True)
        _clean_up(folder)
        staged = Path(tempfile.mkdtemp(prefix=f".{folder.name}.", suffix=_PART, dir=folder.parent))
        yield staged
        if file is None:
            _bring_in(staged, folder)
        else:
            with write_whole(file) as stream:
                stream.write(_encoded(file, text))
                stream.flush()
                # What takes long is done before; now each goes at once.
                os.fsync(stream.fileno())
                _bring_in(staged, folder)
    except OSError as error:
        raise _unwritable(folder, error) from None
    finally:
        if staged is not None:
            shutil.rmtree(staged, ignore_errors=True)


def _bring_in(staged: Path, folder: Path) -> None:
    """Let staged files take their places: at once where the system can, or else one by one."""
    if not folder.exists():
        staged.chmod(0o777 & ~_umask())
        staged.rename(folder)
        return
    there = list(folder.iterdir())
    # Only files of a sort that a hard link is the same as: what else is there stays where it is.
    if not folder.is_symlink() and all(p.is_file() and not p.is_symlink() for p in there):
        # Some places have no hard links.
        with suppress(OSError):
            for file in there:
                if not (staged / file.name).exists():
                    os.link(file, staged / file.name)
            staged.chmod(folder.stat().st_mode & 0o7777)
            if _exchange(staged, folder):
                return
    for file in [path for path in sorted(staged.rglob("*")) if path.is_file()]:
        target = folder / file.relative_to(staged)
        target.parent.mkdir(parents=True, exist_ok=True)
        file.replace(target)


def _exchange(one: Path, other: Path) -> bool:
    """Let two folders change places in one go, which Linux can; whether it was done."""
    libc = ctypes.CDLL(None) if sys.platform == "linux" else None
    call = getattr(libc, "renameat2", None)
    here, exchange = -100, 2
    return call is not None and not call(here, os.fsencode(one), here, os.fsencode(other), exchange)


def write_text(path: Path, text: str) -> None:
    """Write a text file as UTF-8, whole or not at all."""
    data = _encoded(path, text)
    with write_whole(path) as stream:
        stream.write(data)


def _encoded(path: Path, text: str) -> bytes:
    try:
        return text.encode("utf-8")
    except UnicodeEncodeError as error:
        near = told(text[max(0, error.start - 20) : error.end])
        raise InputError(
            f"{path}: half a letter (a surrogate) in {near}; no file holds it"
        ) from None


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
    """A path without links; of links that go in a circle, as far as they go.

    Raises:
        InputError: no file can have that name.
    """
    refuse_impossible(file)
    return Path(os.path.realpath(file))


def refuse_impossible(file: Path) -> None:
    """Refuse what no file can be called, lest each look at it fails in a way of its own.

    Raises:
        InputError: a name in it is too long, or has letters that no name has.
    """
    try:
        too_long = any(len(os.fsencode(name)) > _LONGEST_NAME for name in file.parts)
    except UnicodeEncodeError:
        too_long = True
    if too_long or "\0" in str(file):
        raise InputError(f"{told(str(file))}: no file can have this name")


def is_there(file: Path) -> bool:
    """Whether a file or folder exists.

    Raises:
        InputError: none can have that name.
    """
    refuse_impossible(file)
    return file.exists()


def note_file(file: Path) -> None:
    """Say that a description is read from a file, which may be missing.

    Raises:
        InputError: no file can have that name.
    """
    seen = _noted.get()
    refuse_impossible(file)
    if seen is not None:
        seen.add(true_path(file))


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
