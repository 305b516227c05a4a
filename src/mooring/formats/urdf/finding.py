"""Where the files that a URDF file names may be."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from urllib.parse import unquote, urlparse

from mooring.files import true_path


def tries(filename: str, file: Path, search: Sequence[Path] = ()) -> list[Path]:
    """Where a file may be that is named by relative path, file:// or package://.

    Args:
        filename: as it is named.
        file: that names it.
        search: folders to look in before those near it.
    """
    address = urlparse(filename.replace("\\", "/"))
    if address.scheme == "package":
        inside = Path(unquote(address.path.lstrip("/")))
        # The file may be in the package that it names, wherever that is and is called.
        folders = [*search, file.parent, *true_path(file).parent.parents]
        return [
            place
            for folder in folders
            for place in (folder / address.netloc / inside, folder / inside)
        ]
    if address.scheme == "file":
        return [Path(unquote(address.path))]
    return [folder / unquote(address.path) for folder in (*search, file.parent)]


def is_file(path: Path) -> bool:
    """Whether there is such a file; no for what no path can be."""
    try:
        return path.is_file()
    except (OSError, ValueError):
        return False


def in_another_case(path: Path) -> Path | None:
    """The same path as it is on disk, where only the case of some letters differs."""
    found = Path(path.anchor) if path.is_absolute() else Path()
    for part in path.parts[1:] if path.is_absolute() else path.parts:
        if (found / part).exists():
            found /= part
            continue
        try:
            others = [one for one in found.iterdir() if one.name.lower() == part.lower()]
        except OSError:
            return None
        if len(others) != 1:
            return None
        found = others[0]
    return found if is_file(found) else None


def same_case(path: Path, filename: str) -> bool:
    """Whether a file is called as it is named."""
    wanted = Path(unquote(urlparse(filename.replace("\\", "/")).path)).name
    return not wanted or path.name == wanted
