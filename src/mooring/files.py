"""Files written whole or not at all, which files were read, and where Mooring remembers things."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from pathlib import Path
from typing import BinaryIO


@contextmanager
def write_whole(path: Path) -> Iterator[BinaryIO]:
    """Open a file for writing that takes its place only when all of it is written.

    A failure or an interruption leaves what was there before.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    handle, name = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
    temporary = Path(name)
    try:
        with os.fdopen(handle, "wb") as stream:
            yield stream
        temporary.chmod(0o666 & ~_umask())
        temporary.replace(path)
    except BaseException:
        temporary.unlink(missing_ok=True)
        raise


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


def note_file(file: Path) -> None:
    """Say that a description is read from a file, which may be missing."""
    seen = _noted.get()
    if seen is not None:
        seen.add(file.resolve())


def cache_folder(*names: str) -> Path | None:
    """A folder below Mooring's cache, made if need be; None where nothing can be written.

    `MOORING_CACHE_DIR` names another place than the user's usual cache folder.
    """
    from platformdirs import user_cache_path

    given = os.environ.get("MOORING_CACHE_DIR")
    places = [Path(given)] if given else [user_cache_path("mooring")]
    places.append(Path(tempfile.gettempdir()) / f"mooring-cache-{os.getuid()}")
    for place in places:
        folder = place.joinpath(*names)
        try:
            folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        except OSError:
            continue
        if os.access(folder, os.W_OK) and folder.stat().st_uid == os.getuid():
            return folder
    return None


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
