"""What Mooring remembers from one start to the next: each entry with a checksum.

An entry that is damaged is thrown away, and made anew; nothing that goes wrong here keeps anybody
from working.
"""

from __future__ import annotations

import hashlib
import os
import stat
import tempfile
from contextlib import suppress
from pathlib import Path

from mooring.errors import InputError
from mooring.files import write_whole

_DIGEST = 64


def cache_folder(*names: str) -> Path | None:
    """A folder below Mooring's cache, made if need be; None where nothing can be written.

    `MOORING_CACHE_DIR` names another place than the user's usual cache folder.
    """
    from platformdirs import user_cache_path

    given = os.environ.get("MOORING_CACHE_DIR")
    places = [Path(given)] if given else [user_cache_path("mooring")]
    user = os.getuid() if hasattr(os, "getuid") else os.environ.get("USERNAME", "")
    shared = Path(tempfile.gettempdir()) / f"mooring-cache-{user}"
    for place in (*places, shared):
        folder = place.joinpath(*names)
        try:
            folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            own = [place.joinpath(*names[:length]) for length in range(len(names) + 1)]
            safe = place != shared or all(map(_is_ours, own))
            if safe and os.access(folder, os.W_OK):
                return folder
        except OSError:
            continue
    return None


def _is_ours(folder: Path) -> bool:
    """Whether nobody else can put anything there: in a folder for all, somebody might have."""
    if not hasattr(os, "getuid"):
        return True
    told = folder.lstat()
    return stat.S_ISDIR(told.st_mode) and told.st_uid == os.getuid() and not told.st_mode & 0o022


def kept(room: str, key: str) -> bytes | None:
    """What was remembered under a key, if it is there and sound.

    Args:
        room: what it is of, such as `"cad"`.
        key: its name.
    """
    folder = cache_folder(room)
    if folder is None:
        return None
    file = folder / key
    try:
        whole = file.read_bytes()
    except OSError:
        return None
    content = whole[_DIGEST:]
    if whole[:_DIGEST] == _digest(content):
        return content
    throw_away(room, key)
    return None


def keep(room: str, key: str, content: bytes) -> None:
    """Keep something; where that is not possible nothing happens."""
    folder = cache_folder(room)
    if folder is None:
        return
    # A full or read-only disk must not keep anybody from working.
    with suppress(OSError, InputError), write_whole(folder / key) as stream:
        stream.write(_digest(content))
        stream.write(content)


def throw_away(room: str, key: str) -> None:
    """Throw away what cannot be understood."""
    folder = cache_folder(room)
    if folder is not None:
        with suppress(OSError):
            (folder / key).unlink()


def _digest(content: bytes) -> bytes:
    return hashlib.sha256(content).hexdigest().encode()
